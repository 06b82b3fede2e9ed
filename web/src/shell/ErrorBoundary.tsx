/** What is shown when a part of the page breaks: what was saved is safe, and a way back in. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { Component, type ReactNode } from "react";

interface State {
  error: Error | null;
}

export class ErrorBoundary extends Component<{ children: ReactNode }, State> {
  override state: State = { error: null };

  static getDerivedStateFromError(error: Error): State {
    return { error };
  }

  override render() {
    const { error } = this.state;
    if (!error) return this.props.children;
    return (
      <Box role="alert" sx={{ height: "100vh", display: "grid", placeItems: "center", textAlign: "center" }}>
        <Box sx={{ maxWidth: 460, px: 3 }}>
          <Typography variant="h6">This page has broken</Typography>
          <Typography color="textSecondary" sx={{ my: 1.5 }}>
            Every edit that was saved is kept. Reload the page to go on.
          </Typography>
          <Typography
            variant="caption"
            component="p"
            color="textSecondary"
            sx={{ mb: 2, overflowWrap: "anywhere" }}
          >
            {error.message}
          </Typography>
          <Button variant="contained" onClick={() => location.reload()}>
            Reload
          </Button>
        </Box>
      </Box>
    );
  }
}
