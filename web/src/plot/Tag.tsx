/** A small label on a picture; lit when its parameter is in the spotlight. It is as wide as its letters, whatever their size is. */
import { useLayoutEffect, useRef, useState } from "react";

import classes from "./plot.module.css";

export function Tag({ x, y, text, lit }: { x: number; y: number; text: string; lit: boolean }) {
  const letters = useRef<SVGTextElement>(null);
  const [size, setSize] = useState({ width: 0, height: 20 });
  useLayoutEffect(() => {
    const element = letters.current;
    const measure = () => {
      const box = element?.getBBox();
      if (box) setSize({ width: Math.ceil(box.width) + 14, height: Math.ceil(box.height) + 5 });
    };
    measure();
    // Letters grow with the picture.
    const seen = new ResizeObserver(measure);
    if (element?.ownerSVGElement) seen.observe(element.ownerSVGElement);
    return () => seen.disconnect();
  }, [text]);
  const { width, height } = size;
  return (
    <g className={classes.label} transform={`translate(${x - width} ${y - height / 2})`}>
      <rect width={width} height={height} rx={5} className={classes.tag} data-lit={lit || undefined} />
      <text ref={letters} x={width / 2} y={height / 2} textAnchor="middle" dominantBaseline="central" className={classes.tagText}>
        {text}
      </text>
    </g>
  );
}
