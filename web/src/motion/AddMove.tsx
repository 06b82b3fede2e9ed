/** Something new that moves, in two clicks; it is shown at once. */
import Button from "@mui/material/Button";
import ListSubheader from "@mui/material/ListSubheader";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import { Plus } from "lucide-react";
import { useMemo, useState } from "react";
import type { MotionQuestion } from "../socket/viewport";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { inOrder } from "../store/order";
import { SHOT } from "../store/panes";

const TURNS = { camera: "The camera turns", asset: "The asset turns", light: "The light turns" };
const SEQUENCES = { "All shots, cut": 0, "All shots, dissolving": 1 };
const CAMERA = { push: "Pushes in", pull: "Pulls back", rise: "Rises", around: "Goes around" };
const WAYS = { out: "From the middle", y: "Upwards", x: "Sideways", z: "To the front" };

/** Whether the asset's file moves or bends anything. */
const useHasClip = () => {
  const hasClips = useSlice((s) => (s.opened?.clips.length ?? 0) > 0);
  const parts = useScene((s) => s.parts);
  return useMemo(
    () => hasClips || Object.values(parts).some((part) => part.keys.length > 1),
    [hasClips, parts],
  );
};

export function AddMove() {
  const workspace = useWorkspace();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const shots = useScene((s) => inOrder(s.shots, s.shot_order));
  const selection = useSlice((s) => s.selection);
  const conditions = useScene((s) => Object.keys(s.conditions));
  const hasClip = useHasClip();
  const hasSun = useScene(({ sky }) => sky.enabled && sky.place !== null);
  const add = async (type: MotionQuestion, question: object) => {
    setAnchor(null);
    const key = await workspace.commitBy(type, SHOT, question);
    if (key === null) workspace.notify({ severity: "info", text: "There is nothing that could move so." });
    else workspace.set({ move: key });
  };
  return (
    <>
      <Button size="small" startIcon={<Plus size={14} />} onClick={(event) => setAnchor(event.currentTarget)}>
        Add a move
      </Button>
      <Menu
        anchorEl={anchor}
        open={anchor !== null}
        onClose={() => setAnchor(null)}
        slotProps={{ list: { dense: true } }}
      >
        <ListSubheader sx={{ lineHeight: "28px" }}>Turntable</ListSubheader>
        {Object.entries(TURNS).map(([turns, label]) => (
          <MenuItem key={turns} onClick={() => void add("make_turntable", { turns })}>
            {label}
          </MenuItem>
        ))}
        <ListSubheader sx={{ lineHeight: "28px" }}>Exploded view</ListSubheader>
        {Object.entries(WAYS).map(([along, label]) => (
          <MenuItem key={along} onClick={() => void add("make_exploded", { along, parts: selection })}>
            {label}
          </MenuItem>
        ))}
        <ListSubheader sx={{ lineHeight: "28px" }}>Camera</ListSubheader>
        {Object.entries(CAMERA).map(([way, label]) => (
          <MenuItem key={way} onClick={() => void add("make_camera_move", { way })}>
            {label}
          </MenuItem>
        ))}
        {shots.length > 1 && (
          <MenuItem onClick={() => void add("make_travel", { first: shots[0]![0], last: shots[1]![0] })}>
            From shot to shot
          </MenuItem>
        )}
        {shots.length > 1 &&
          Object.entries(SEQUENCES).map(([label, dissolve]) => (
            <MenuItem
              key={label}
              onClick={() => void add("make_sequence", { shots: shots.map(([key]) => key), dissolve })}
            >
              {label}
            </MenuItem>
          ))}
        {hasClip && <ListSubheader sx={{ lineHeight: "28px" }}>Asset</ListSubheader>}
        {hasClip && <MenuItem onClick={() => void add("make_clip", {})}>Its clip, again and again</MenuItem>}
        {(hasSun || conditions.length > 1) && (
          <ListSubheader sx={{ lineHeight: "28px" }}>Light</ListSubheader>
        )}
        {conditions.length > 1 && (
          <MenuItem onClick={() => void add("make_relight", { first: conditions[0], last: conditions[1] })}>
            From conditions to conditions
          </MenuItem>
        )}
        {hasSun && <MenuItem onClick={() => void add("make_day", {})}>The sun goes through its day</MenuItem>}
      </Menu>
    </>
  );
}
