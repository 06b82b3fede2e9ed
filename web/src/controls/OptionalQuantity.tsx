/** A number that can be off: a switch, and the number while it is on. What it was comes back when it is switched on. */
import Box from "@mui/material/Box";
import Switch from "@mui/material/Switch";
import Typography from "@mui/material/Typography";
import { useRef } from "react";
import { Quantity, type QuantityField } from "./Quantity";

export interface OptionalField extends Omit<QuantityField, "default"> {
  /** The value it is first switched on with. */
  on: number;
  /** What it means that it is off. */
  off: string;
}

interface Props {
  field: OptionalField;
  value: number | null;
  onPreview: (value: number) => void;
  onCommit: (value: number | null) => void;
}

export function OptionalQuantity({ field, value, onPreview, onCommit }: Props) {
  const last = useRef(field.on);
  if (value !== null) last.current = value;
  const lead = (
    <Switch
      checked={value !== null}
      onChange={(_, on) => onCommit(on ? last.current : null)}
      sx={{ alignSelf: "center", ml: "-6px", mr: "-4px" }}
      slotProps={{ input: { "aria-label": field.label } }}
    />
  );
  if (value !== null)
    return (
      <Quantity
        field={{ ...field, default: field.on }}
        value={value}
        lead={lead}
        onReset={() => onCommit(null)}
        onPreview={onPreview}
        onCommit={onCommit}
      />
    );
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 1, mb: 1 }}>
      {lead}
      <Typography variant="body2" color="text.secondary" sx={{ flex: 1 }}>
        {field.label}
      </Typography>
      <Typography variant="body2" color="text.secondary" sx={{ pr: "4px" }}>
        {field.off}
      </Typography>
    </Box>
  );
}
