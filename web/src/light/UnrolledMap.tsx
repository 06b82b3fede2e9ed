/** The map that is all around, unrolled over the picture: its cards are dragged on it, and it is saved as a file. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import IconButton from "@mui/material/IconButton";
import Paper from "@mui/material/Paper";
import Typography from "@mui/material/Typography";
import { Download, X } from "lucide-react";
import { useCallback, useMemo, useRef, useState } from "react";
import { leftOut, saveEnvironment } from "../api/client";
import type { Card } from "../api/types";
import { useScene, useSlice, useWorkspace } from "../store/context";
import type { Gesture } from "../store/hand";
import { SHOT } from "../store/panes";
import { pointer, replace } from "../store/patch";
import { useAnswer } from "../store/useAnswer";
import { anglesOf, type MapPlace, middleOf, outlineOf } from "./unrolled";

const [WIDTH, HEIGHT] = [440, 220];
const [AMBER, BONE] = ["#e9a63f", "#f2ece3"];
const NO_CARDS = {};

export function UnrolledMap() {
  const isShown = useSlice((s) => s.unrolled && s.stop === "light");
  return isShown ? <Sheet /> : null;
}

function Sheet() {
  const workspace = useWorkspace();
  const project = useSlice((s) => s.project);
  const cards = useScene((s) => s.environment.cards ?? NO_CARDS);
  const picture = useMapPicture();
  const [isWriting, setIsWriting] = useState(false);
  const save = async () => {
    setIsWriting(true);
    try {
      const lost = leftOut(await saveEnvironment(project));
      if (lost) workspace.notify({ severity: "warning", text: lost });
    } catch (error) {
      workspace.notify({ severity: "error", text: (error as Error).message });
    }
    setIsWriting(false);
  };
  return (
    <Paper
      elevation={6}
      role="region"
      aria-label="The map unrolled"
      sx={{ position: "absolute", right: 10, top: 46, p: 1, bgcolor: "rgba(31,31,31,0.94)" }}
    >
      <Box sx={{ display: "flex", alignItems: "center", mb: 0.5 }}>
        <Typography variant="body2" sx={{ flex: 1, fontWeight: 600 }}>
          The map unrolled
        </Typography>
        <Button
          size="small"
          color="secondary"
          startIcon={<Download size={14} />}
          disabled={isWriting}
          onClick={() => void save()}
        >
          {isWriting ? "Writing…" : "Save as .exr"}
        </Button>
        <IconButton
          size="small"
          aria-label="Roll the map up"
          onClick={() => workspace.set({ unrolled: false })}
        >
          <X size={14} />
        </IconButton>
      </Box>
      <svg
        role="img"
        aria-label="Map of what is all around, with its cards"
        width={WIDTH}
        height={HEIGHT}
        style={{ display: "block", borderRadius: 3, background: "#111", touchAction: "none" }}
      >
        {picture && (
          <image href={picture} width={WIDTH} height={HEIGHT} preserveAspectRatio="none" opacity={0.92} />
        )}
        {Object.entries(cards).map(([key, card]) => (
          <Outline key={key} id={key} card={card} />
        ))}
      </svg>
    </Paper>
  );
}

/** The map as the host last drew it; drawn anew when what is around has changed. */
function useMapPicture(): string | null {
  const workspace = useWorkspace();
  const environment = useSlice((s) => s.committed.environment);
  const sky = useSlice((s) => s.committed.sky);
  const exposure = useSlice((s) => s.committed.look.exposure);
  const around = useMemo(() => ({ environment, sky, exposure }), [environment, sky, exposure]);
  const ask = useCallback(() => workspace.askHost<{ picture: string }>("unrolled", SHOT), [workspace]);
  return useAnswer(around, ask)?.picture ?? null;
}

const lineOf = (line: MapPlace[]) =>
  line.map(({ u, v }) => `${(u * WIDTH).toFixed(1)},${(v * HEIGHT).toFixed(1)}`).join(" ");

function Outline({ id, card }: { id: string; card: Card }) {
  const workspace = useWorkspace();
  const isChosen = useSlice((s) => s.card === id);
  const held = useRef<{ gesture: Gesture; from: MapPlace; x: number; y: number } | null>(null);
  const middle = middleOf(card);
  const color = isChosen ? AMBER : BONE;
  const letGo = () => {
    held.current?.gesture.commit();
    held.current = null;
  };
  return (
    <g
      data-testid={`card-on-map-${id}`}
      style={{ cursor: "grab" }}
      opacity={card.enabled ? 1 : 0.4}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        workspace.chooseLight(null);
        workspace.set({ card: id });
        const gesture = workspace.begin(`Move ${card.name}`);
        held.current = { gesture, from: middle, x: event.clientX, y: event.clientY };
      }}
      onPointerMove={(event) => {
        if (!held.current) return;
        const { gesture, from, x, y } = held.current;
        const to = { u: from.u + (event.clientX - x) / WIDTH, v: from.v + (event.clientY - y) / HEIGHT };
        const { azimuth, elevation } = anglesOf(to);
        const at = (name: string) => pointer("environment", "cards", id, name);
        gesture.preview([replace(at("azimuth"), azimuth), replace(at("elevation"), elevation)]);
      }}
      onPointerUp={letGo}
      onPointerCancel={letGo}
    >
      <title>{card.name}</title>
      {outlineOf(card).map((line) => (
        <polyline
          key={lineOf(line)}
          points={lineOf(line)}
          fill="rgba(255,255,255,0.06)"
          stroke={color}
          strokeWidth={isChosen ? 2 : 1.25}
        />
      ))}
      <circle
        cx={middle.u * WIDTH}
        cy={middle.v * HEIGHT}
        r={6}
        fill={color}
        fillOpacity={0.85}
        stroke="#111"
      />
    </g>
  );
}
