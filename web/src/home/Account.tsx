/** The person's account: the password, and where else they are signed in. */
import Alert from "@mui/material/Alert";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import Stack from "@mui/material/Stack";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { type FormEvent, useCallback, useEffect, useState } from "react";
import { api } from "../api/client";
import { Invitations } from "./Invitations";

type Said = { severity: "success" | "error"; text: string };

interface Props {
  username: string;
  mayInvite: boolean;
  onClose: () => void;
}

export function Account({ username, mayInvite, onClose }: Props) {
  const [old, setOld] = useState("");
  const [next, setNext] = useState("");
  const [others, setOthers] = useState(0);
  const [said, setSaid] = useState<Said | null>(null);

  const fail = useCallback((error: Error) => setSaid({ severity: "error", text: error.message }), []);
  const count = useCallback(
    () => api.sessions().then((all) => setOthers(all.filter((one) => !one.is_this).length), fail),
    [fail],
  );
  useEffect(() => {
    count();
  }, [count]);

  const change = (event: FormEvent) => {
    event.preventDefault();
    api.changePassword(old, next).then(() => {
      setOld("");
      setNext("");
      setSaid({ severity: "success", text: "The password is changed; other places are signed out." });
      count();
    }, fail);
  };

  return (
    <Dialog open onClose={onClose} maxWidth="xs" fullWidth>
      <DialogTitle>Account: {username}</DialogTitle>
      <DialogContent>
        <Stack component="form" onSubmit={change} sx={{ gap: 1.5, pt: 1 }}>
          <TextField
            size="small"
            type="password"
            label="Old password"
            autoComplete="current-password"
            value={old}
            onChange={(event) => setOld(event.target.value)}
          />
          <TextField
            size="small"
            type="password"
            label="New password"
            autoComplete="new-password"
            helperText="At least ten characters, and no common word."
            value={next}
            onChange={(event) => setNext(event.target.value)}
          />
          <Button type="submit" variant="outlined" disabled={!old || !next}>
            Change the password
          </Button>
        </Stack>
        {said && (
          <Alert severity={said.severity} sx={{ mt: 1.5 }}>
            {said.text}
          </Alert>
        )}
        <Stack direction="row" sx={{ mt: 2.5, alignItems: "center", gap: 1 }}>
          <Typography variant="body2" sx={{ flex: 1 }}>
            {others === 0
              ? "Signed in here only."
              : `Signed in at ${others} other place${others > 1 ? "s" : ""}.`}
          </Typography>
          {others > 0 && (
            <Button size="small" onClick={() => api.endOtherSessions().then(count, fail)}>
              Sign out there
            </Button>
          )}
        </Stack>
        {mayInvite && <Invitations />}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}
