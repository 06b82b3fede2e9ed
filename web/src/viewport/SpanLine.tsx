/** From what to what is to be sharp, while it is drawn. */
import type { DrawnLine } from "../store/view";
import type { Place } from "./layout";

const BONE = "#f2ece3";

export function SpanLine({ span, place }: { span: DrawnLine; place: Place }) {
  const [x1, y1, x2, y2] = span.map((v, i) => v * (i % 2 === 0 ? place.width : place.height)) as DrawnLine;
  return (
    <svg aria-hidden style={{ position: "absolute", ...place, overflow: "hidden", pointerEvents: "none" }}>
      <line x1={x1} y1={y1} x2={x2} y2={y2} stroke={BONE} strokeWidth={1.5} strokeDasharray="5 4" />
      <circle cx={x1} cy={y1} r={4} fill={BONE} />
      <circle cx={x2} cy={y2} r={4} fill={BONE} />
    </svg>
  );
}
