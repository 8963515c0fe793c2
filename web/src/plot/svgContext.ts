/** The part of a canvas context that our pictures draw with, writing SVG instead: for pictures that are exported. */

const escape = (text: string) => text.replace(/&/g, "&amp;").replace(/</g, "&lt;").replace(/"/g, "&quot;");

export class SvgContext {
  private way = "";
  private readonly parts: string[] = [];
  private dash: number[] = [];
  strokeStyle = "#000";
  fillStyle = "#000";
  lineWidth = 1;
  lineJoin = "round";
  globalAlpha = 1;

  beginPath(): void {
    this.way = "";
  }
  moveTo(x: number, y: number): void {
    this.way += `M${x.toFixed(2)} ${y.toFixed(2)}`;
  }
  lineTo(x: number, y: number): void {
    this.way += `L${x.toFixed(2)} ${y.toFixed(2)}`;
  }
  closePath(): void {
    this.way += "Z";
  }
  /** Whole circles are all that our pictures draw. */
  arc(x: number, y: number, r: number): void {
    this.way += `M${(x - r).toFixed(2)} ${y.toFixed(2)}a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0Z`;
  }
  rect(x: number, y: number, width: number, height: number): void {
    this.way += `M${x} ${y}h${width}v${height}h${-width}Z`;
  }
  setLineDash(dash: number[]): void {
    this.dash = dash;
  }
  fill(): void {
    this.parts.push(`<path d="${this.way}" fill="${escape(this.fillStyle)}" opacity="${this.globalAlpha}"/>`);
  }
  stroke(): void {
    const dash = this.dash.length > 0 ? ` stroke-dasharray="${this.dash.join(" ")}"` : "";
    this.parts.push(
      `<path d="${this.way}" fill="none" stroke="${escape(this.strokeStyle)}" stroke-width="${this.lineWidth}" stroke-linejoin="${this.lineJoin}" opacity="${this.globalAlpha}"${dash}/>`,
    );
  }
  /** The drawn elements. */
  elements(): string {
    return this.parts.join("");
  }
}
