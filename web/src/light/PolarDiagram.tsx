/** The polar diagram of a light: its intensity in the planes across and along, the axis down (CIE S 017, 17-24-022). */
import type { Vector } from "../viewport/vectors";
import type { ProfileSolid } from "./useProfileSolid";

const [WIDTH, HEIGHT, REACH] = [248, 190, 78];
const RINGS = [0.25, 0.5, 0.75, 1];
const SPOKES = [0, 30, 60, 90, 120, 150];
const [ACROSS, ALONG, LINES] = ["#e9a63f", "#7cc9b8", "#4a4a4a"];

const short = (value: number) => Number(value.toPrecision(2)).toLocaleString("en");

/** A closed curve of the half planes on both sides of the axis. */
function curveOf(right: Vector[], left: Vector[], along: 0 | 1): string {
  const point = ([x, y, z]: Vector, i: 0 | 1) =>
    `${((i === 0 ? x : y) * REACH).toFixed(1)},${(z * REACH).toFixed(1)}`;
  return [...right.map((p) => point(p, along)), ...left.toReversed().map((p) => point(p, along))].join(" ");
}

export function PolarDiagram({ solid }: { solid: ProfileSolid }) {
  const { planes, candela } = solid;
  if (!planes) return null;
  const quarter = planes.length / 4;
  return (
    <svg
      role="img"
      aria-label={`Polar diagram, at most ${short(candela)} cd`}
      viewBox={`${-WIDTH / 2} ${-HEIGHT / 2} ${WIDTH} ${HEIGHT}`}
      width="100%"
      style={{ display: "block", background: "#171717", borderRadius: 4, marginTop: 6 }}
    >
      {RINGS.map((share) => (
        <circle key={share} r={share * REACH} fill="none" stroke={LINES} strokeWidth={0.6} />
      ))}
      {SPOKES.map((angle) => (
        <line
          key={angle}
          x1={-Math.sin((angle * Math.PI) / 180) * REACH}
          y1={-Math.cos((angle * Math.PI) / 180) * REACH}
          x2={Math.sin((angle * Math.PI) / 180) * REACH}
          y2={Math.cos((angle * Math.PI) / 180) * REACH}
          stroke={LINES}
          strokeWidth={0.6}
        />
      ))}
      <polygon
        points={curveOf(planes[quarter]!, planes[3 * quarter]!, 1)}
        fill="none"
        stroke={ALONG}
        strokeWidth={1.4}
        strokeDasharray="4 3"
      />
      <polygon
        points={curveOf(planes[0]!, planes[2 * quarter]!, 0)}
        fill={ACROSS}
        fillOpacity={0.14}
        stroke={ACROSS}
        strokeWidth={1.6}
      />
      {RINGS.map((share) => (
        <text key={share} x={3} y={share * REACH - 2} fontSize={8} fill="#b9b3a8">
          {`${short(share * candela)}${share === 1 ? " cd" : ""}`}
        </text>
      ))}
      <text x={-WIDTH / 2 + 6} y={HEIGHT / 2 - 16} fontSize={9} fill={ACROSS}>
        across
      </text>
      <text x={-WIDTH / 2 + 6} y={HEIGHT / 2 - 5} fontSize={9} fill={ALONG}>
        along
      </text>
    </svg>
  );
}
