/** The key of a value at the moment that is shown: set and taken away; seen while the time line is open, or has one. */
import IconButton from "@mui/material/IconButton";
import Tooltip from "@mui/material/Tooltip";
import { KeyRound } from "lucide-react";
import { keyAt, tracksOf } from "../motion/recorded";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { pointer } from "../store/patch";
import { described } from "./fields";
import type { BoundProps } from "./useField";

/** Sections of the document that say what moves, and how it is computed: none of it moves. */
const STILL: ReadonlySet<string> = new Set(["motion", "shutter", "print", "proof", "rendering"]);

/** The first of several objects says how it stands; all of them get their keys. */
export function KeyMark({ model, places, name }: BoundProps) {
  const workspace = useWorkspace();
  const paths = places.map((place) => pointer(...place, name));
  const open = useSlice((s) => s.timeline);
  const standing = useScene((s) => {
    const track = tracksOf(s.motion.moves).get(paths[0] ?? "");
    return track ? (keyAt(track[1].keys, s.shutter.time) >= 0 ? "here" : "elsewhere") : "none";
  });
  const isStill = STILL.has(places[0]?.[0] ?? "");
  if (isStill || (!open && standing === "none")) return null;
  const { label } = described(model, name);
  const word = standing === "here" ? "Take the key away" : "Set a key";
  return (
    <Tooltip title={`${word} at this moment`}>
      <IconButton
        size="small"
        aria-label={`${word}: ${label}`}
        onClick={() => void workspace.commitBy("toggle_keys", SHOT, { paths })}
        sx={{
          p: 0.25,
          color: standing === "none" ? "text.secondary" : "primary.main",
          opacity: standing === "here" ? 1 : 0.6,
        }}
      >
        <KeyRound size={13} fill={standing === "here" ? "currentColor" : "none"} />
      </IconButton>
    </Tooltip>
  );
}
