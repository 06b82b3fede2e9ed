/** The state of connection and data, in the bar. */
import Typography from "@mui/material/Typography";
import { useEffect, useState, useSyncExternalStore } from "react";
import { useSlice } from "../store/context";
import { standingOf } from "./standing";

function useNetwork(): boolean {
  return useSyncExternalStore(
    (tell) => {
      addEventListener("online", tell);
      addEventListener("offline", tell);
      return () => {
        removeEventListener("online", tell);
        removeEventListener("offline", tell);
      };
    },
    () => navigator.onLine,
  );
}

export function Saving() {
  const connection = useSlice((s) => s.connection);
  const unsent = useSlice((s) => s.unsent + s.asked);
  const hasNetwork = useNetwork();
  const [wasOpen, setWasOpen] = useState(false);
  useEffect(() => {
    if (connection === "open") setWasOpen(true);
  }, [connection]);
  const { state, text } = standingOf(connection, unsent, wasOpen, hasNetwork);
  const isWrong = state === "lost" || state === "offline" || state === "reconnecting";
  return (
    <Typography
      variant="caption"
      color={isWrong ? "error" : "textSecondary"}
      role="status"
      data-testid="saving"
      data-state={state}
      noWrap
      sx={{ flexShrink: 0 }}
    >
      · {text}
    </Typography>
  );
}
