/** Inviting others: a link is made and shown once, for the inviter to pass on. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import IconButton from "@mui/material/IconButton";
import Stack from "@mui/material/Stack";
import TextField from "@mui/material/TextField";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { X } from "lucide-react";
import { type FormEvent, useCallback, useEffect, useState } from "react";
import { api, invitationUrl } from "../api/client";
import type { InvitationEntry } from "../api/types";

const DAY = new Intl.DateTimeFormat(undefined, { dateStyle: "medium" });

export function Invitations() {
  const [open, setOpen] = useState<InvitationEntry[]>([]);
  const [note, setNote] = useState("");
  const [link, setLink] = useState("");
  const [problem, setProblem] = useState("");

  const fail = useCallback((error: Error) => setProblem(error.message), []);
  const load = useCallback(() => api.invitations().then(setOpen, fail), [fail]);
  useEffect(() => {
    load();
  }, [load]);

  const invite = (event: FormEvent) => {
    event.preventDefault();
    api.invite(note).then(({ token }) => {
      setLink(invitationUrl(token));
      setNote("");
      setProblem("");
      load();
    }, fail);
  };
  const withdraw = (id: number) => api.withdrawInvitation(id).then(load, fail);

  return (
    <Box component="section" aria-label="Invitations" sx={{ mt: 3 }}>
      <Typography variant="subtitle2" sx={{ mb: 1 }}>
        Invite somebody
      </Typography>
      <Stack component="form" direction="row" onSubmit={invite} sx={{ gap: 1 }}>
        <TextField
          size="small"
          label="Whom it is for"
          value={note}
          onChange={(event) => setNote(event.target.value)}
          sx={{ flex: 1 }}
        />
        <Button type="submit" variant="outlined">
          Make a link
        </Button>
      </Stack>
      {problem && (
        <Alert severity="error" sx={{ mt: 1.5 }}>
          {problem}
        </Alert>
      )}
      {link && (
        <TextField
          fullWidth
          size="small"
          label="Its link"
          value={link}
          onFocus={(event) => event.target.select()}
          helperText="Pass it on yourself: it is shown this once, and good for one account within seven days."
          slotProps={{ input: { readOnly: true } }}
          sx={{ mt: 2 }}
        />
      )}
      {open.map((one) => (
        <Stack key={one.id} direction="row" sx={{ mt: 1, alignItems: "center" }}>
          <Typography variant="body2" noWrap sx={{ flex: 1 }}>
            {one.note || "Somebody"}
          </Typography>
          <Typography variant="caption" color="textSecondary">
            until {DAY.format(new Date(one.expires))}
          </Typography>
          <Tooltip title="Withdraw">
            <IconButton
              size="small"
              aria-label={`Withdraw the invitation of ${one.note || "somebody"}`}
              onClick={() => withdraw(one.id)}
            >
              <X size={14} />
            </IconButton>
          </Tooltip>
        </Stack>
      ))}
    </Box>
  );
}
