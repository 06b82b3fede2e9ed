/** A set around the asset: one click adds a piece, of a size and at a place that suit what is there. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { Fold } from "../controls/Fold";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { PIECES, pieceName } from "./set";

const KEY = "Asset.set";

export function SetPieces() {
  const workspace = useWorkspace();
  const isOpen = useSlice((s) => s.unfolded[KEY] ?? false);
  const count = useScene((s) => Object.values(s.parts).filter((part) => part.form).length);
  return (
    <Fold
      title="Set"
      summary={count === 0 ? "backdrop, plinth, bodies, charts" : count === 1 ? "1 piece" : `${count} pieces`}
      isOpen={isOpen}
      onToggle={() => workspace.unfold(KEY, !isOpen)}
    >
      {PIECES.map(([purpose, pieces]) => (
        <Box key={purpose} sx={{ display: "grid", gridTemplateColumns: "84px 1fr", alignItems: "baseline" }}>
          <Typography variant="body2" color="textSecondary">
            {purpose}
          </Typography>
          <Box>
            {pieces.map((piece) => (
              <Button
                key={piece}
                size="small"
                aria-label={`Add: ${pieceName(piece)}`}
                sx={{ minWidth: 0, px: 0.9 }}
                onClick={() => workspace.arrange({ kind: "build", piece })}
              >
                {pieceName(piece)}
              </Button>
            ))}
          </Box>
        </Box>
      ))}
    </Fold>
  );
}
