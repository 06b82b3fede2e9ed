/** A new showing: what is shown, until when, and what visitors may do. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { showing } from "../api/fields.gen";
import { changed } from "../api/queries";
import { showings } from "../api/showings";
import type { Right } from "../api/types";
import { allEditions, Combining } from "../compare/Combining";
import { Several } from "../controls/Several";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { dayIn, endOf, pictures } from "./counting";

const DAYS = 14;

export function NewShowing({ onClose }: { onClose: () => void }) {
  const workspace = useWorkspace();
  const project = useSlice((s) => s.project);
  const scene = useScene((s) => s);
  const [name, setName] = useState("");
  const [day, setDay] = useState(() => dayIn(DAYS));
  const [password, setPassword] = useState("");
  const [chosen, setChosen] = useState(() => allEditions(scene));
  const [rights, setRights] = useState<Right[]>(["switch", "compare", "comment"]);
  const [samples, setSamples] = useState<number>(showing.samples.Good);
  const [problem, setProblem] = useState("");
  const count = pictures(chosen, rights);

  const make = async () => {
    try {
      await showings.create(project, {
        name: name || "Showing",
        ends: endOf(day),
        password,
        rights,
        samples,
        ...chosen,
      } as never);
      await changed.showings(project);
      workspace.notify({
        severity: "info",
        text: "The showing is made; its pictures follow. Copy its link.",
      });
      onClose();
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  return (
    <Dialog open onClose={onClose} maxWidth="sm" fullWidth>
      <DialogTitle>Make a showing</DialogTitle>
      <DialogContent>
        <Typography variant="body2" color="textSecondary" sx={{ mb: 2 }}>
          A link for somebody without an account. They see the project as it is now, and nothing else of it.
          Where nothing is chosen below, they see what is on.
        </Typography>
        <Box sx={{ display: "grid", gridTemplateColumns: "1fr 150px 130px 96px", gap: 1.5, pt: 0.5, mb: 2 }}>
          <TextField size="small" label="Name" value={name} onChange={(e) => setName(e.target.value)} />
          <TextField
            size="small"
            type="date"
            label="Until"
            value={day}
            onChange={(e) => setDay(e.target.value)}
            slotProps={{ inputLabel: { shrink: true } }}
          />
          <TextField
            size="small"
            label="Password"
            value={password}
            autoComplete="off"
            onChange={(e) => setPassword(e.target.value)}
          />
          <TextField
            select
            size="small"
            label="Pictures"
            value={samples}
            onChange={(e) => setSamples(Number(e.target.value))}
          >
            {Object.entries(showing.samples).map(([word, count]) => (
              <MenuItem key={word} value={count}>
                {word}
              </MenuItem>
            ))}
          </TextField>
        </Box>
        <Combining chosen={chosen} onChange={setChosen} />
        <Several
          title="Visitors may"
          keys={Object.keys(showing.rights)}
          nameOf={(key) => showing.rights[key as Right]}
          chosen={rights}
          onChange={(keys) => setRights(keys as Right[])}
        />
        {problem && (
          <Typography role="alert" variant="body2" color="error" sx={{ mt: 1 }}>
            {problem}
          </Typography>
        )}
      </DialogContent>
      <DialogActions>
        <Typography
          variant="body2"
          color={count > showing.most ? "error" : "textSecondary"}
          sx={{ flex: 1, pl: 2 }}
        >
          {count === 1 ? "One picture" : `${count.toLocaleString("en")} pictures`} will be made
          {count > showing.most && `: ${showing.most} are the most`}
        </Typography>
        <Button onClick={onClose}>Leave it</Button>
        <Button variant="contained" disabled={count > showing.most || day === ""} onClick={() => void make()}>
          Make it
        </Button>
      </DialogActions>
    </Dialog>
  );
}
