/** One take: its picture with what is drawn on it, what is said of it, and how the project is made as it was then. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import { Circle, MoveUpRight, Type, Undo2 } from "lucide-react";
import { useState } from "react";
import { takes as kept } from "../api/takes";
import type { TakeEntry } from "../api/types";
import { useWorkspace } from "../store/context";
import { dayOf, hourOf, useSaid, useTakeChange } from "./keeping";
import { Marks, type Pen } from "./Marks";
import { Over } from "./Over";
import { Said } from "./Said";

export function OneTake({ take }: { take: TakeEntry }) {
  const workspace = useWorkspace();
  const [pen, setPen] = useState<Pen>(null);
  const said = useSaid(workspace, take.id);
  const removing = useTakeChange<void>(workspace, () => kept.remove(take.id));
  const remove = () => {
    removing.mutate();
    workspace.set({ takes: "sheet" });
  };
  return (
    <Over
      title={`${dayOf(take.created)}, ${hourOf(take.created)}${take.shown ? ` · ${take.shown}` : ""}`}
      isOfSheet
      actions={
        <>
          <ToggleButtonGroup
            exclusive
            size="small"
            aria-label="Draw on it"
            value={pen}
            onChange={(_, next: Pen) => setPen(next)}
          >
            <ToggleButton value="arrow" aria-label="Arrow" sx={{ py: 0.25 }}>
              <MoveUpRight size={14} />
            </ToggleButton>
            <ToggleButton value="ring" aria-label="Ring" sx={{ py: 0.25 }}>
              <Circle size={14} />
            </ToggleButton>
            <ToggleButton value="words" aria-label="Words" sx={{ py: 0.25 }}>
              <Type size={14} />
            </ToggleButton>
          </ToggleButtonGroup>
          <Button
            size="small"
            startIcon={<Undo2 size={14} />}
            disabled={take.marks.length === 0}
            onClick={() => said.mutate({ marks: take.marks.slice(0, -1) })}
          >
            Last mark off
          </Button>
          <Button size="small" color="inherit" onClick={remove}>
            Remove
          </Button>
        </>
      }
    >
      <Box sx={{ flex: 1, minHeight: 0, display: "flex" }}>
        <Box sx={{ flex: 1, minWidth: 0, p: 1.5 }}>
          <Box sx={{ position: "relative", width: "100%", height: "100%" }}>
            <Box
              component="img"
              src={take.picture}
              alt={`Take ${take.id}`}
              draggable={false}
              sx={{ display: "block", width: "100%", height: "100%", objectFit: "contain" }}
            />
            <Marks
              marks={take.marks}
              pins={take.comments}
              pen={pen}
              shape={take.width / take.height}
              onDraw={(mark) => said.mutate({ marks: [...take.marks, mark] })}
            />
          </Box>
        </Box>
        <Said take={take} />
      </Box>
    </Over>
  );
}
