/** Controls that are bound to a field of the document: label, unit and ranges come from the core's own models. */
import Box from "@mui/material/Box";
import FormControlLabel from "@mui/material/FormControlLabel";
import MenuItem from "@mui/material/MenuItem";
import Select from "@mui/material/Select";
import Switch from "@mui/material/Switch";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Typography from "@mui/material/Typography";
import { memo } from "react";
import type { Color } from "../api/types";
import { useSlice } from "../store/context";
import type { Gesture } from "../store/hand";
import { reach } from "../viewport/orbit";
import { ColorField } from "./ColorField";
import { InputMark } from "./InputMark";
import { takesInput } from "./inputs";
import { KeyMark } from "./KeyMark";
import { MapMark, useMap } from "./MapMark";
import { type OptionalField, OptionalQuantity } from "./OptionalQuantity";
import { Quantity, type QuantityField } from "./Quantity";
import { type BoundProps, useField } from "./useField";

/** The control of a field, of whichever kind it is. Drawn again only when its own value changes. */
export const BoundField = memo(function BoundField(props: BoundProps) {
  const { field } = useField(props);
  switch (field.kind) {
    case "number":
    case "optional":
      return <BoundQuantity {...props} />;
    case "color":
      return <BoundColor {...props} />;
    case "choice":
      return <BoundChoice {...props} />;
    case "place":
      return <BoundVector {...props} />;
    case "switch":
      return <BoundSwitch {...props} />;
    default:
      throw new Error(`${props.model}.${props.name} has no control`);
  }
});

/** What besides its constant a field has, or could have. */
function Marks(props: BoundProps) {
  return (
    <>
      <KeyMark {...props} />
      <MapMark {...props} />
      {props.model === "Material" && takesInput(props.name) && (
        <InputMark places={props.places} name={props.name} />
      )}
    </>
  );
}

/** A number; one that can be off comes with its switch. */
export function BoundQuantity(props: BoundProps) {
  const { field, value, begin } = useField<number | null>(props);
  if (field.kind === "optional")
    return (
      <OptionalQuantity
        field={field as OptionalField}
        value={value}
        mark={<KeyMark {...props} />}
        begin={begin}
      />
    );
  return (
    <Quantity
      field={field as QuantityField}
      value={value ?? undefined}
      mark={<Marks {...props} />}
      begin={begin}
    />
  );
}

export function BoundColor(props: BoundProps) {
  const { field, value, begin } = useField<Color>(props);
  const { picture } = useMap(props);
  const mark = <Marks {...props} />;
  return <ColorField label={field.label} value={value} mark={mark} map={picture} begin={begin} />;
}

/** Words of a choice, and letters of them all, that have room side by side; where there are more, they open as a list. */
const [BESIDE_ONE_ANOTHER, LETTERS] = [4, 14];

/** One of a few words. */
export function BoundChoice(props: BoundProps) {
  const { field, value, commit } = useField<string>(props);
  const options = Object.entries(field.options ?? {});
  const letters = options.reduce((sum, [, label]) => sum + label.length, 0);
  if (options.length > BESIDE_ONE_ANOTHER && letters > LETTERS)
    return (
      <Box sx={{ display: "flex", alignItems: "center", minHeight: 26, mb: 0.25 }}>
        <Typography noWrap variant="body2" color="textSecondary" sx={{ flex: 1 }}>
          {field.label}
        </Typography>
        <Select
          size="small"
          displayEmpty
          value={value ?? ""}
          onChange={(event) => event.target.value && commit(event.target.value)}
          renderValue={(word) => (word ? field.options?.[word] : "mixed")}
          inputProps={{ "aria-label": field.label }}
          sx={{ width: 112, fontSize: 12.5, "& .MuiSelect-select": { py: 0.25, pl: 1 } }}
        >
          {options.map(([key, label]) => (
            <MenuItem dense key={key} value={key}>
              {label}
            </MenuItem>
          ))}
        </Select>
      </Box>
    );
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", columnGap: 1, mb: 0.5 }}>
      <Typography variant="body2" color="textSecondary" sx={{ flex: "1 0 auto", lineHeight: "24px" }}>
        {field.label}
        {value === undefined && " (mixed)"}
      </Typography>
      <ToggleButtonGroup
        exclusive
        size="small"
        value={value ?? null}
        aria-label={field.label}
        onChange={(_, next: string | null) => next && commit(next)}
        sx={{ "& button": { py: 0.1, px: 1, fontSize: 12, textTransform: "none" } }}
      >
        {options.map(([key, label]) => (
          <ToggleButton key={key} value={key}>
            {label}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
    </Box>
  );
}

/** How far a place may be dragged: what is seen around the target, twice. */
const SPAN_OF_REACH = 2;
const STEPS_OF_SPAN = 1000;

/** A place in the scene: one number for each axis, each of them an edit of the whole vector. */
export function BoundVector(props: BoundProps) {
  const { field, value, begin } = useField<Color>(props);
  // A step as fine as the picture is wide: 2 mm or 300 m, the hand moves the same.
  const span = useSlice((s) => Number((SPAN_OF_REACH * reach(s.committed.camera)).toPrecision(1)));
  const at = value ?? (field.default as Color);
  const beginAxis = (axis: number): Gesture<number> => {
    const gesture = begin();
    return {
      ...gesture,
      preview: (next) => gesture.preview(at.map((old, i) => (i === axis ? next : old)) as Color),
    };
  };
  return (
    <>
      {["X", "Y", "Z"].map((letter, axis) => (
        <Quantity
          key={letter}
          field={{
            label: `${field.label} ${letter}`,
            unit: "m",
            soft_minimum: -span,
            soft_maximum: span,
            step: span / STEPS_OF_SPAN,
            default: (field.default as Color)[axis]!,
          }}
          value={value?.[axis]}
          mark={axis === 0 && <KeyMark {...props} />}
          begin={() => beginAxis(axis)}
        />
      ))}
    </>
  );
}

export function BoundSwitch(props: BoundProps) {
  const { field, value, commit } = useField<boolean>(props);
  return (
    <Box sx={{ display: "flex", alignItems: "center", mb: 0.25 }}>
      <FormControlLabel
        sx={{ ml: 0, mr: 0, flex: 1, justifyContent: "space-between" }}
        labelPlacement="start"
        control={<Switch checked={value ?? false} onChange={(_, checked) => commit(checked)} />}
        label={
          <Typography variant="body2" color="textSecondary">
            {field.label}
            {value === undefined && " (mixed)"}
          </Typography>
        }
      />
      <KeyMark {...props} />
    </Box>
  );
}
