/** What values the picture has: by column, and by colour difference. */
import Box from "@mui/material/Box";
import { useEffect, useState } from "react";
import { Fold } from "../controls/Fold";
import { useSlice, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { Histogram } from "../viewport/Histogram";

interface Found {
  waveform: string | null;
  vectorscope: string | null;
}

const REST_MS = 200;
const KEY = "look.scopes";

export function Scopes() {
  const workspace = useWorkspace();
  const isOpen = useSlice((s) => s.unfolded[KEY] ?? false);
  return (
    <Fold title="Scopes" isOpen={isOpen} onToggle={() => workspace.unfold(KEY, !isOpen)}>
      <Drawn />
    </Fold>
  );
}

function Drawn() {
  const workspace = useWorkspace();
  const frame = useSlice((s) => s.panes[SHOT]?.frame ?? null);
  const [found, setFound] = useState<Found | null>(null);
  useEffect(() => {
    if (!frame) return;
    const rest = setTimeout(() => workspace.askHost<Found>("scopes", SHOT).then(setFound), REST_MS);
    return () => clearTimeout(rest);
  }, [workspace, frame]);
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 1 }}>
      {found?.waveform && (
        <Box
          component="img"
          src={found.waveform}
          alt="Waveform: values of red, green and blue over the columns of the picture"
          sx={{ width: "100%", height: 116, bgcolor: "#111", borderRadius: 1 }}
        />
      )}
      <Box sx={{ display: "flex", gap: 1, alignItems: "flex-start", flexWrap: "wrap" }}>
        {found?.vectorscope && (
          <Box
            component="img"
            src={found.vectorscope}
            alt="Vectorscope: how far colours are from grey, and which way"
            sx={{ width: 96, height: 96, bgcolor: "#111", borderRadius: "50%" }}
          />
        )}
        <Histogram number={SHOT} />
      </Box>
    </Box>
  );
}
