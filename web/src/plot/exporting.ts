/** Every picture on the page as an SVG or PNG file with its caption. */
import { token } from "../theme/theme";
import type { Pane } from "./panes";
import type { Scales } from "./scales";
import { SvgContext } from "./svgContext";

/** How the dense data of a frame are drawn; frames register here while they are on the page. */
export const frames = new WeakMap<Element, { panes: Pane[]; scales: Scales[] }>();

/** What is copied from the page's styles into a file of its own. */
const STYLES = [
  "fill",
  "stroke",
  "stroke-width",
  "stroke-dasharray",
  "stroke-linejoin",
  "opacity",
  "font-family",
  "font-size",
  "font-weight",
  "text-anchor",
  "paint-order",
  "visibility",
];

const CAPTION_ROOM = 46;
const LINE_HEIGHT = 18;

/** The pictures that are on the page now, by their names, the largest first. */
export function picturesOnPage(): Map<string, SVGSVGElement> {
  const area = (svg: Element) => svg.clientWidth * svg.clientHeight;
  const found = Array.from(document.querySelectorAll<SVGSVGElement>("svg[data-picture]")).filter(
    (svg) => area(svg) > 0,
  );
  found.sort((a, b) => area(b) - area(a));
  return new Map(found.map((svg) => [svg.dataset["picture"] ?? "", svg]));
}

/** A picture as the text of an SVG file. */
export function svgOf(svg: SVGSVGElement, caption: string): string {
  const { width, height } = svg.getBoundingClientRect();
  const view = svg.getAttribute("viewBox") ?? `0 0 ${width} ${height}`;
  const lines = wrapped(caption, Math.max(24, Math.floor(width / 7.2)));
  const whole = height + CAPTION_ROOM + (lines.length - 1) * LINE_HEIGHT;
  const text = lines
    .map(
      (line, i) =>
        `<text x="10" y="${height + 24 + i * LINE_HEIGHT}" fill="${token("ink")}" font-family="sans-serif" font-size="14">${plain(line)}</text>`,
    )
    .join("");
  return (
    `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${whole}" viewBox="0 0 ${width} ${whole}">` +
    `<rect width="100%" height="100%" fill="${token("paper")}"/>` +
    dataOf(svg) +
    `<svg width="${width}" height="${height}" viewBox="${view}">${styled(svg)}</svg>${text}</svg>`
  );
}

function plain(text: string): string {
  return text.replace(/&/g, "&amp;").replace(/</g, "&lt;");
}

/** Lines of at most so many characters. */
function wrapped(text: string, most: number): string[] {
  return text.split(" ").reduce<string[]>((lines, word) => {
    const last = lines.at(-1);
    if (last !== undefined && last.length + word.length < most) lines[lines.length - 1] = `${last} ${word}`;
    else lines.push(word);
    return lines;
  }, []);
}

/** The dense data of a frame, drawn anew as elements. */
function dataOf(svg: SVGSVGElement): string {
  const frame = frames.get(svg);
  if (!frame) return "";
  return frame.panes
    .map((pane, i) => {
      const s = frame.scales[i];
      if (!s) return "";
      const context = new SvgContext();
      pane.draw(context as unknown as CanvasRenderingContext2D, s);
      const clip = `<clipPath id="pane${i}"><rect x="${s.left}" y="${s.top - 1}" width="${s.right - s.left}" height="${s.bottom - s.top + 2}"/></clipPath>`;
      return `${clip}<g clip-path="url(#pane${i})">${context.elements()}</g>`;
    })
    .join("");
}

/** The elements of a picture with their styles written out. */
function styled(svg: SVGSVGElement): string {
  const copy = svg.cloneNode(true) as SVGSVGElement;
  const originals = svg.querySelectorAll("*");
  copy.querySelectorAll("*").forEach((element, i) => {
    const original = originals[i];
    if (!original) return;
    const style = getComputedStyle(original);
    STYLES.forEach((name) => element.setAttribute(name, style.getPropertyValue(name)));
    ["class", "style"].forEach((name) => element.removeAttribute(name));
  });
  return copy.innerHTML;
}

/** A picture as a PNG file, twice as large as it stands on the page. */
export async function pngOf(svg: string): Promise<Blob> {
  const address = URL.createObjectURL(new Blob([svg], { type: "image/svg+xml" }));
  try {
    const image = new Image();
    image.src = address;
    await image.decode();
    const canvas = document.createElement("canvas");
    canvas.width = 2 * image.width;
    canvas.height = 2 * image.height;
    canvas.getContext("2d")?.drawImage(image, 0, 0, canvas.width, canvas.height);
    const blob = await new Promise<Blob | null>((resolve) => canvas.toBlob(resolve, "image/png"));
    if (!blob) throw new Error("the picture could not be made");
    return blob;
  } finally {
    URL.revokeObjectURL(address);
  }
}
