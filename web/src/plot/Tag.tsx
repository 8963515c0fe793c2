/** A small label on a picture; lit when its parameter is in the spotlight. It is as wide as its letters, whatever their size is. */
import { useLayoutEffect, useRef, useState } from "react";

import classes from "./plot.module.css";

let ruler: CanvasRenderingContext2D | null = null;

/** How large letters are in a font, without the page being laid out for it: a tag moves with every step of a hand. */
function sizeOf(text: string, font: string): { width: number; height: number } {
  ruler ??= document.createElement("canvas").getContext("2d");
  if (!ruler || font === "") return { width: 0, height: 20 };
  ruler.font = font;
  const { width, fontBoundingBoxAscent, fontBoundingBoxDescent } = ruler.measureText(text);
  return { width: Math.ceil(width) + 14, height: Math.ceil(fontBoundingBoxAscent + fontBoundingBoxDescent) + 5 };
}

export function Tag({ x, y, text, lit }: { x: number; y: number; text: string; lit: boolean }) {
  const letters = useRef<SVGTextElement>(null);
  const [font, setFont] = useState("");
  useLayoutEffect(() => {
    const element = letters.current;
    if (!element) return undefined;
    const look = () => setFont(getComputedStyle(element).font);
    look();
    // Letters grow with the picture, and a font may come late.
    const seen = new ResizeObserver(look);
    if (element.ownerSVGElement) seen.observe(element.ownerSVGElement);
    document.fonts.addEventListener("loadingdone", look);
    return () => {
      seen.disconnect();
      document.fonts.removeEventListener("loadingdone", look);
    };
  }, []);
  const { width, height } = sizeOf(text, font);
  return (
    <g className={classes.label} transform={`translate(${x - width} ${y - height / 2})`}>
      <rect width={width} height={height} rx={5} className={classes.tag} data-lit={lit || undefined} />
      <text
        ref={letters}
        x={width / 2}
        y={height / 2}
        textAnchor="middle"
        dominantBaseline="central"
        className={classes.tagText}
      >
        {text}
      </text>
    </g>
  );
}
