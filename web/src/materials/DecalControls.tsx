/** One decal: what is on it, on which parts it lies, its place among the others, its finish. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import ButtonBase from "@mui/material/ButtonBase";
import IconButton from "@mui/material/IconButton";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { ArrowDown, ArrowUp, Eye, EyeOff, Trash2 } from "lucide-react";
import { useMemo, useRef, useState } from "react";
import type { Decal } from "../api/types";
import { FieldGroups } from "../controls/FieldGroup";
import { useScene, useSlice, useWorkspace } from "../store/context";
import type { Gesture } from "../store/hand";
import { pointer, replace } from "../store/patch";
import { inOrder, reordered } from "./decalLists";
import { FileChoice } from "./FileChoice";

const OPEN = ["text", "finish", "lies"];

export function DecalControls({ id, isOpen }: { id: string; isOpen: boolean }) {
  const workspace = useWorkspace();
  const decal = useScene((s) => s.decals[id]);
  const count = useScene((s) => Object.keys(s.decals).length);
  const place = useScene((s) => inOrder(s.decals).indexOf(id));
  if (!decal) return null;
  const change = (by: 1 | -1) =>
    workspace.commit(
      reordered(workspace.getState().scene.decals, id, by),
      `${by > 0 ? "Lift" : "Lower"} ${decal.name}`,
    );
  return (
    <Box component="section" aria-label={`Decal ${decal.name}`} sx={{ mb: 1 }}>
      <Box sx={{ display: "flex", alignItems: "center" }}>
        <ButtonBase
          aria-expanded={isOpen}
          onClick={() => workspace.set({ decal: isOpen ? null : id })}
          sx={{
            flex: 1,
            minWidth: 0,
            justifyContent: "flex-start",
            fontFamily: "inherit",
            fontSize: 12.5,
            fontWeight: 600,
            color: isOpen ? "primary.main" : "text.primary",
          }}
        >
          {decal.name}
        </ButtonBase>
        <IconButton
          size="small"
          aria-label={`${decal.enabled ? "Hide" : "Show"} ${decal.name}`}
          onClick={() =>
            workspace.commit(
              [replace(pointer("decals", id, "enabled"), !decal.enabled)],
              `${decal.enabled ? "Hide" : "Show"} ${decal.name}`,
            )
          }
        >
          {decal.enabled ? <Eye size={14} /> : <EyeOff size={14} />}
        </IconButton>
        <IconButton
          size="small"
          aria-label={`Lift ${decal.name}`}
          disabled={place === count - 1}
          onClick={() => change(1)}
        >
          <ArrowUp size={14} />
        </IconButton>
        <IconButton
          size="small"
          aria-label={`Lower ${decal.name}`}
          disabled={place === 0}
          onClick={() => change(-1)}
        >
          <ArrowDown size={14} />
        </IconButton>
        <IconButton
          size="small"
          aria-label={`Remove ${decal.name}`}
          onClick={() =>
            workspace.commit([{ op: "remove", path: pointer("decals", id) }], `Remove ${decal.name}`)
          }
        >
          <Trash2 size={14} />
        </IconButton>
      </Box>
      {isOpen && <Open id={id} decal={decal} />}
    </Box>
  );
}

function Open({ id, decal }: { id: string; decal: Decal }) {
  const workspace = useWorkspace();
  const places = useMemo(() => [["decals", id]], [id]);
  const contents = useMemo(() => [["decals", id, "content"]], [id]);
  return (
    <>
      {decal.content.kind === "text" ? (
        <>
          <Words id={id} text={decal.content.text} />
          <FieldGroups model="TextContent" places={contents} open={OPEN} />
        </>
      ) : (
        <FileChoice
          label="Image"
          chosen={decal.content.file ?? null}
          onChoose={(file) =>
            workspace.commit([replace(pointer("decals", id, "content", "file"), file)], file.name)
          }
        />
      )}
      <FieldGroups model="Decal" places={places} open={OPEN} />
      <OnParts id={id} decal={decal} />
    </>
  );
}

/** The words of lettering: seen while they are typed, one step of undo when the field is left; without any, the last. */
function Words({ id, text }: { id: string; text: string }) {
  const workspace = useWorkspace();
  const [isCleared, setCleared] = useState(false);
  const gesture = useRef<Gesture | null>(null);
  return (
    <TextField
      fullWidth
      multiline
      size="small"
      label="Words"
      value={isCleared ? "" : text}
      helperText={isCleared ? "Lettering has one letter at least: until then it stays as it was." : undefined}
      slotProps={{ htmlInput: { maxLength: 300 } }}
      sx={{ my: 0.75 }}
      onChange={(event) => {
        setCleared(event.target.value === "");
        if (event.target.value === "") return;
        if (!gesture.current || gesture.current.isOver()) gesture.current = workspace.begin("Words");
        gesture.current.preview([replace(pointer("decals", id, "content", "text"), event.target.value)]);
      }}
      onBlur={() => {
        setCleared(false);
        gesture.current?.commit();
      }}
    />
  );
}

/** On which parts it lies, and whether on those too that are selected besides. */
function OnParts({ id, decal }: { id: string; decal: Decal }) {
  const workspace = useWorkspace();
  const selection = useSlice((s) => s.selection);
  const names = useScene((s) => decal.parts.flatMap((key) => s.parts[key]?.name ?? []).join(", "));
  const others = selection.filter((key) => !decal.parts.includes(key));
  const path = pointer("decals", id, "parts");
  return (
    <>
      <Typography variant="caption" color="textSecondary" component="p">
        on {names || "parts that are gone"}
      </Typography>
      {others.length > 0 && (
        <Button
          size="small"
          onClick={() =>
            workspace.commit([replace(path, [...decal.parts, ...others])], `${decal.name} on more parts`)
          }
        >
          On the other selected parts too
        </Button>
      )}
      {decal.parts.length > 1 && (
        <Button
          size="small"
          onClick={() =>
            workspace.commit([replace(path, decal.parts.slice(0, 1))], `${decal.name} on one part`)
          }
        >
          On the first alone
        </Button>
      )}
    </>
  );
}
