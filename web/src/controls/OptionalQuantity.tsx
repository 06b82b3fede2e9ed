/** A number that can be off: a switch, and the number while it is on. What it was comes back when it is switched on. */
import Box from "@mui/material/Box";
import Switch from "@mui/material/Switch";
import Typography from "@mui/material/Typography";
import { type ReactNode, useRef } from "react";
import type { Gesture } from "../store/hand";
import { Quantity, type QuantityField } from "./Quantity";

export type OptionalField = Omit<QuantityField, "default" | "on" | "off"> & { on: number; off: string };

interface Props {
  field: OptionalField;
  /** Null: off; undefined: several things have different values. */
  value: number | null | undefined;
  mark?: ReactNode;
  begin: () => Gesture<number | null>;
}

export function OptionalQuantity({ field, value, mark, begin }: Props) {
  const last = useRef(field.on);
  if (typeof value === "number") last.current = value;
  const store = (next: number | null) => {
    const gesture = begin();
    gesture.preview(next);
    gesture.commit();
  };
  const lead = (
    <Switch
      checked={value !== null}
      onChange={(_, on) => store(on ? last.current : null)}
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
        mark={mark}
        onReset={() => store(null)}
        begin={begin}
      />
    );
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 1, mb: 0.5 }}>
      {lead}
      <Typography variant="body2" color="textSecondary" sx={{ flex: 1 }}>
        {field.label}
      </Typography>
      <Typography variant="body2" color="textSecondary" sx={{ pr: "4px" }}>
        {field.off}
      </Typography>
    </Box>
  );
}
