import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Stack from "@mui/material/Stack";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { type FormEvent, useState } from "react";
import { api } from "../api/client";
import type { Session } from "../api/types";
import { Wordmark } from "../shell/Wordmark";

interface Props {
  /** Of an invitation: then an account is made. */
  token: string | null;
  onSignedIn: (session: Session) => void;
}

export function SignIn({ token, onSignedIn }: Props) {
  const [username, setUsername] = useState("");
  const [password, setPassword] = useState("");
  const [problem, setProblem] = useState("");
  const [busy, setBusy] = useState(false);

  const submit = async (event: FormEvent) => {
    event.preventDefault();
    setBusy(true);
    setProblem("");
    try {
      onSignedIn(
        await (token === null ? api.signIn(username, password) : api.register(token, username, password)),
      );
    } catch (error) {
      setProblem((error as Error).message);
      setBusy(false);
    }
  };

  return (
    <Box
      component="main"
      sx={{
        height: "100vh",
        display: "grid",
        placeItems: "center",
        background: "radial-gradient(60% 50% at 50% 42%, #2b2520 0%, #171717 70%)",
      }}
    >
      <Stack component="form" onSubmit={submit} spacing={2} sx={{ width: 320 }}>
        <Box sx={{ textAlign: "center", mb: 1 }}>
          <Wordmark size={34} isTitle />
          <Typography color="textSecondary" sx={{ mt: 0.5 }}>
            {token === null
              ? "See it lit before you print it."
              : "You are invited. Choose a name and a password."}
          </Typography>
        </Box>
        <TextField
          label="Name"
          value={username}
          onChange={(e) => setUsername(e.target.value)}
          autoComplete="username"
          autoFocus
          required
          size="small"
        />
        <TextField
          label="Password"
          type="password"
          value={password}
          onChange={(e) => setPassword(e.target.value)}
          autoComplete={token === null ? "current-password" : "new-password"}
          helperText={token === null ? undefined : "At least ten characters, and no common word."}
          required
          size="small"
        />
        {problem && <Alert severity="error">{problem}</Alert>}
        <Button type="submit" variant="contained" disabled={busy}>
          {token === null ? "Sign in" : "Make my account"}
        </Button>
      </Stack>
    </Box>
  );
}
