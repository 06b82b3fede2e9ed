/** Which shots the camera goes from and to. */
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import type { Move } from "../api/types";
import { useScene, useWorkspace } from "../store/context";
import { inOrder } from "../store/order";
import { replace } from "../store/patch";

const ENDS = { first: "From the shot", last: "To the shot" } as const;

export function TravelEnds({ id, move }: { id: string; move: Extract<Move, { kind: "travel" }> }) {
  const workspace = useWorkspace();
  const shots = useScene((s) => inOrder(s.shots, s.shot_order));
  return Object.entries(ENDS).map(([end, label]) => (
    <TextField
      key={end}
      select
      fullWidth
      size="small"
      label={label}
      value={
        shots.some(([key]) => key === move[end as keyof typeof ENDS]) ? move[end as keyof typeof ENDS] : ""
      }
      onChange={({ target }) =>
        workspace.commit([replace(`/motion/moves/${id}/${end}`, target.value)], `${label} ${target.value}`)
      }
      sx={{ mt: 0.75, mb: 0.5 }}
    >
      {shots.map(([key, shot]) => (
        <MenuItem key={key} value={key}>
          {shot.name}
        </MenuItem>
      ))}
    </TextField>
  ));
}
