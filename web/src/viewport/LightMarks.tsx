/** At the stop Light: every light in its true shape over the picture, to be picked; those outside it at its edge. */
import ButtonBase from "@mui/material/ButtonBase";
import Tooltip from "@mui/material/Tooltip";
import { Lightbulb, LightbulbOff } from "lucide-react";
import type { Light } from "../api/types";
import { useProfileSolid } from "../light/useProfileSolid";
import type { Frame } from "../socket/frame";
import { useScene, useSlice, useWorkspace } from "../store/context";
import type { Place } from "./layout";
import { beam, outline, solidLines } from "./lightShapes";
import { type Projection, pathOf, projection } from "./projection";
import type { Vector } from "./vectors";

const SIZE = 24;
/** How near the edge of the picture a mark may lie, CSS pixels. */
const MARGIN = 18;
const [AMBER, BONE] = ["#e9a63f", "#f2ece3"];

interface Props {
  place: Place;
  frame: Frame;
}

export function LightMarks({ place, frame }: Props) {
  const isShown = useSlice((s) => s.stop === "light");
  const lights = useScene((s) => s.lights);
  const chosen = useSlice((s) => s.light);
  const solid = useProfileSolid(isShown ? chosen : null);
  if (!isShown) return null;
  const held = chosen === null ? undefined : lights[chosen];
  const lens = projection(frame.camera, frame.full.width / frame.full.height);
  return (
    <>
      <svg
        aria-hidden
        data-testid="light-outlines"
        style={{ position: "absolute", ...place, overflow: "hidden", pointerEvents: "none" }}
      >
        {Object.entries(lights).map(([key, light]) => (
          <path
            key={key}
            d={outline(light, lens.backwards)
              .map((points) => pathOf(points, lens, place))
              .join("")}
            fill="none"
            stroke={key === chosen ? AMBER : BONE}
            strokeWidth={key === chosen ? 2 : 1.25}
            strokeOpacity={light.enabled ? 0.9 : 0.4}
            strokeDasharray={light.kind === "directional" ? "4 4" : undefined}
          />
        ))}
        {held && (
          <path
            data-testid="light-beam"
            d={[...beam(held), ...(solid?.planes ? solidLines(held, solid.planes) : [])]
              .map((points) => pathOf(points, lens, place))
              .join("")}
            fill="none"
            stroke={AMBER}
            strokeWidth={0.9}
            strokeOpacity={0.55}
          />
        )}
      </svg>
      {Object.entries(lights).map(([key, light]) => (
        <Mark key={key} id={key} light={light} isChosen={key === chosen} lens={lens} place={place} />
      ))}
    </>
  );
}

/** Where the mark of a light lies, in shares of the picture: at the edge when the light is outside. */
function markAt(lens: Projection, position: Vector, place: Place) {
  const { x, y, depth } = lens.project(position);
  const [mx, my] = [MARGIN / place.width, MARGIN / place.height];
  const isInside = depth > 0 && x >= mx && x <= 1 - mx && y >= my && y <= 1 - my;
  if (isInside) return { x, y, isInside };
  // Behind the camera the picture is upside down.
  const turn = depth > 0 ? 1 : -1;
  const [dx, dy] = [(x - 0.5) * turn, (y - 0.5) * turn];
  const out = Math.max(Math.abs(dx) / (0.5 - mx), Math.abs(dy) / (0.5 - my), 1e-6);
  return { x: 0.5 + dx / out, y: 0.5 + dy / out, isInside };
}

interface MarkProps extends Omit<Props, "frame"> {
  id: string;
  light: Light;
  isChosen: boolean;
  lens: Projection;
}

function Mark({ id, light, isChosen, lens, place }: MarkProps) {
  const workspace = useWorkspace();
  const { x, y, isInside } = markAt(lens, light.position as Vector, place);
  const Icon = light.enabled ? Lightbulb : LightbulbOff;
  return (
    <Tooltip title={isInside ? light.name : `${light.name}, outside the picture`}>
      <ButtonBase
        aria-label={`Choose ${light.name}`}
        aria-pressed={isChosen}
        data-testid={`light-mark-${id}`}
        onClick={() => workspace.chooseLight(isChosen ? null : id)}
        sx={{
          position: "absolute",
          width: SIZE,
          height: SIZE,
          borderRadius: isInside ? "50%" : "6px",
          border: "1.5px solid",
          borderColor: isChosen ? "secondary.main" : "rgba(242,236,227,0.7)",
          color: isChosen ? "secondary.main" : "text.primary",
          bgcolor: "rgba(23,23,23,0.72)",
          opacity: light.enabled ? 1 : 0.6,
        }}
        style={{
          left: place.left + x * place.width - SIZE / 2,
          top: place.top + y * place.height - SIZE / 2,
        }}
      >
        <Icon size={13} aria-hidden />
      </ButtonBase>
    </Tooltip>
  );
}
