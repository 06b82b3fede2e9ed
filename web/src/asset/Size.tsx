/** How large the asset is, what one of its file's units is, and which of its axes is up. */
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Typography from "@mui/material/Typography";
import { fields, fileUnits } from "../api/fields.gen";
import type { Arrangement } from "../api/types";
import { Fold } from "../controls/Fold";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { SizeDrawing } from "./SizeDrawing";
import { type Extents, useExtents } from "./useExtents";

const KEY = "Asset.size";
const toggles = {
  flexWrap: "wrap",
  mb: 1,
  "& button": { py: 0.1, px: 1, fontSize: 12, textTransform: "none" },
};

const METRIC = ["km", "m", "cm", "mm"] as const;
const DIGITS = 3;

/** "4.2 × 6.1 × 4.2 cm": one word for all three. */
export function dimensions(extents: Extents): string {
  const largest = Math.max(...extents);
  const word = METRIC.find((unit) => largest >= fileUnits[unit]) ?? "mm";
  const numbers = extents.map((length) => Number((length / fileUnits[word]).toPrecision(DIGITS)));
  return `${numbers.join(" × ")} ${word}`;
}

export function Size() {
  const workspace = useWorkspace();
  const asset = useScene((s) => s.asset);
  const extents = useExtents();
  const isOpen = useSlice((s) => s.unfolded[KEY] ?? false);
  if (!asset) return null;
  const stand = (what: Partial<Extract<Arrangement, { kind: "stand" }>>) =>
    workspace.arrange({ kind: "stand", scale: null, up: null, ...what });
  return (
    <Fold
      title="Size"
      summary={extents ? dimensions(extents) : ""}
      isOpen={isOpen}
      onToggle={() => workspace.unfold(KEY, !isOpen)}
    >
      {extents && (
        <>
          <Typography variant="body2" sx={{ mb: 1, textAlign: "center" }}>
            {dimensions(extents)}
          </Typography>
          <SizeDrawing extents={extents} />
        </>
      )}
      <Typography variant="body2" color="textSecondary" id="file-units">
        Units of the file
      </Typography>
      <ToggleButtonGroup
        exclusive
        size="small"
        aria-labelledby="file-units"
        value={asset.scale}
        onChange={(_, scale: number | null) => scale && stand({ scale })}
        sx={toggles}
      >
        {Object.entries(fileUnits).map(([word, metres]) => (
          <ToggleButton key={word} value={metres}>
            {word}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      <Typography variant="body2" color="textSecondary" id="upright-axis">
        {fields.Asset.up.label}
      </Typography>
      <ToggleButtonGroup
        exclusive
        size="small"
        aria-labelledby="upright-axis"
        value={asset.up}
        onChange={(_, up: typeof asset.up | null) => up && stand({ up })}
        sx={{ ...toggles, mb: 0 }}
      >
        {Object.entries(fields.Asset.up.options).map(([axis, label]) => (
          <ToggleButton key={axis} value={axis}>
            {label}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
    </Fold>
  );
}
