/** The key of a track that stands at this moment: when it is, and how its value goes on to the next. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Typography from "@mui/material/Typography";
import { ClipboardPaste, Copy, Trash2 } from "lucide-react";
import type { Keyed } from "../api/types";
import { useScene, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { pointer, replace } from "../store/patch";
import { copyKeys, pasteKeys } from "./copiedKeys";
import { type Bezier, EaseEditor } from "./EaseEditor";
import { keyAt } from "./recorded";

const WAYS = { hold: "Holds", line: "Straight", curve: "Curve" } as const;
/** Slow at both ends. */
const SOFT: Bezier = [0.42, 0, 0.58, 1];

export function KeyFields({ id, move }: { id: string; move: Keyed }) {
  const workspace = useWorkspace();
  const place = useScene((s) => keyAt(move.keys, s.shutter.time));
  const key = move.keys[place];
  if (!key)
    return (
      <>
        <Typography variant="caption" color="textSecondary" component="p">
          {move.keys.length === 1 ? "One key" : `${move.keys.length} keys`}. Press one to see it; change the
          value at another moment, and there is one more.
        </Typography>
        <Copying id={id} keys={move.keys} label="Copy all keys" />
      </>
    );
  const path = pointer("motion", "moves", id, "keys");
  const goOn = (to_next: typeof key.to_next) =>
    move.keys.map((each, n) => (n === place ? { ...each, to_next } : each));
  const change = (to_next: typeof key.to_next) =>
    workspace.commit([replace(path, goOn(to_next))], `Key of ${move.name}`);
  const way = typeof key.to_next === "string" ? key.to_next : "curve";
  return (
    <Box role="group" aria-label={`Key at ${key.time.toFixed(2)} s`}>
      <Box sx={{ display: "flex", alignItems: "center" }}>
        <Typography variant="caption" color="textSecondary" sx={{ flex: 1 }}>
          Key {place + 1} of {move.keys.length}, {key.time.toFixed(2)} s. To the next:
        </Typography>
        <Button
          size="small"
          color="inherit"
          startIcon={<Trash2 size={12} />}
          onClick={() => void workspace.commitBy("toggle_keys", SHOT, { paths: [move.path] })}
          sx={{ py: 0, minWidth: 0 }}
        >
          Remove
        </Button>
      </Box>
      <ToggleButtonGroup
        exclusive
        size="small"
        value={way}
        aria-label="How it goes on to the next"
        onChange={(_, next: keyof typeof WAYS | null) => next && change(next === "curve" ? SOFT : next)}
        sx={{ "& button": { py: 0.1, px: 1, fontSize: 12, textTransform: "none" } }}
      >
        {Object.entries(WAYS).map(([name, label]) => (
          <ToggleButton key={name} value={name}>
            {label}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      <Copying id={id} keys={[key]} label="Copy" />
      {typeof key.to_next !== "string" && (
        <EaseEditor
          curve={key.to_next as Bezier}
          begin={() => {
            const gesture = workspace.begin(`Key of ${move.name}`);
            return { ...gesture, preview: (next) => gesture.preview([replace(path, goOn(next))]) };
          }}
        />
      )}
    </Box>
  );
}

/** Taking keys from a track, and laying what was taken into it. */
function Copying({ id, keys, label }: { id: string; keys: Keyed["keys"]; label: string }) {
  const workspace = useWorkspace();
  return (
    <Box sx={{ display: "flex", gap: 0.5, mt: 0.5 }}>
      <Button
        size="small"
        color="inherit"
        startIcon={<Copy size={12} />}
        onClick={() => copyKeys(workspace, keys)}
      >
        {label}
      </Button>
      <Button
        size="small"
        color="inherit"
        startIcon={<ClipboardPaste size={12} />}
        onClick={() => void pasteKeys(workspace, id)}
      >
        Paste here
      </Button>
    </Box>
  );
}
