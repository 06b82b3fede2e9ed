/** What a move goes from and to: shots of the camera, conditions of the light. */
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import type { Move } from "../api/types";
import { useScene, useWorkspace } from "../store/context";
import { inOrder } from "../store/order";
import { replace } from "../store/patch";

type FromTo = Extract<Move, { kind: "travel" | "relight" }>;

const WORDS = {
  travel: { first: "From the shot", last: "To the shot" },
  relight: { first: "From the conditions", last: "To the conditions" },
} as const;
const ENDS = ["first", "last"] as const;

export function MoveEnds({ id, move }: { id: string; move: FromTo }) {
  const workspace = useWorkspace();
  const named = useScene((s) =>
    move.kind === "travel" ? inOrder(s.shots, s.shot_order) : Object.entries(s.conditions),
  );
  return ENDS.map((end) => (
    <TextField
      key={end}
      select
      fullWidth
      size="small"
      label={WORDS[move.kind][end]}
      value={named.some(([key]) => key === move[end]) ? move[end] : ""}
      onChange={({ target }) => {
        const name = named.find(([key]) => key === target.value)?.[1].name;
        workspace.commit(
          [replace(`/motion/moves/${id}/${end}`, target.value)],
          `${WORDS[move.kind][end]} ${name}`,
        );
      }}
      sx={{ mt: 0.75, mb: 0.5 }}
    >
      {named.map(([key, { name }]) => (
        <MenuItem key={key} value={key}>
          {name}
        </MenuItem>
      ))}
    </TextField>
  ));
}
