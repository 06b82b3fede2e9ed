/** A drawing of a layout that is laid over the picture, to match it; no print has it. */
import Box from "@mui/material/Box";
import Slider from "@mui/material/Slider";
import Typography from "@mui/material/Typography";
import { useCallback } from "react";
import { ImageField } from "../light/ImageField";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { replace } from "../store/patch";
import { useAnswer } from "../store/useAnswer";

export function LayoutField() {
  const workspace = useWorkspace();
  const file = useScene((s) => s.layout);
  const seen = useSlice((s) => s.layoutSeen);
  return (
    <Box>
      <ImageField
        label="Layout over the picture"
        none="None"
        file={file}
        onFile={(next, name) => workspace.commit([replace("/layout", next)], `Layout: ${name}`)}
      />
      {file && (
        <Box sx={{ display: "flex", alignItems: "center", gap: 1.5, px: 0.5 }}>
          <Typography variant="body2" color="textSecondary" sx={{ whiteSpace: "nowrap" }}>
            Seen {seen} %
          </Typography>
          <Slider
            size="small"
            min={0}
            max={100}
            value={seen}
            aria-label="How much of the layout is seen"
            onChange={(_, next) => workspace.seeLayout(next)}
          />
        </Box>
      )}
    </Box>
  );
}

interface Drawing {
  picture: string | null;
  problem: string | null;
}

interface Props {
  place: { left: number; top: number; width: number; height: number };
}

export function LayoutDrawing({ place }: Props) {
  const file = useScene((s) => s.layout);
  return file ? <Drawn file={file} place={place} /> : null;
}

function Drawn({ file, place }: Props & { file: object }) {
  const workspace = useWorkspace();
  const seen = useSlice((s) => s.layoutSeen);
  const ask = useCallback(async () => {
    const answer = await workspace.askHost<Drawing>("layout_picture", SHOT);
    if (answer?.problem) workspace.notify({ severity: "error", text: answer.problem });
    return answer;
  }, [workspace]);
  const found = useAnswer(file, ask);
  if (!found?.picture) return null;
  return (
    <img
      alt=""
      data-testid="layout"
      src={found.picture}
      style={{
        position: "absolute",
        ...place,
        objectFit: "contain",
        opacity: seen / 100,
        pointerEvents: "none",
      }}
    />
  );
}
