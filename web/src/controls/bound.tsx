/** Controls that are bound to a field of the document: label, unit and ranges come from the core's own models. */
import Box from "@mui/material/Box";
import FormControlLabel from "@mui/material/FormControlLabel";
import Switch from "@mui/material/Switch";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Typography from "@mui/material/Typography";
import type { ReactNode } from "react";
import { fields } from "../api/fields.gen";
import type { Color } from "../api/types";
import { useSlice, useWorkspace } from "../store/context";
import type { Gesture } from "../store/hand";
import { pointer, replace } from "../store/patch";
import { ColorField } from "./ColorField";
import { type OptionalField, OptionalQuantity } from "./OptionalQuantity";
import { Quantity, type QuantityField } from "./Quantity";

export type ModelName = keyof typeof fields;

interface BoundProps {
  model: ModelName;
  /** Where the model's object lies in the document; of several objects, each place. */
  at: string[] | string[][];
  name: string;
}

function described(model: ModelName, name: string): QuantityField {
  const field = (fields[model] as unknown as Record<string, QuantityField>)[name];
  if (!field) throw new Error(`${model} has no field ${name}`);
  return field;
}

function valueAt<T>(root: unknown, steps: string[]): T {
  let value = root;
  for (const step of steps) value = (value as Record<string, unknown>)[step];
  return value as T;
}

const isSeveral = (at: string[] | string[][]): at is string[][] => Array.isArray(at[0]);
const isSame = (a: unknown, b: unknown) => a === b || JSON.stringify(a) === JSON.stringify(b);

/** A field with its value, undefined where several objects have different ones, and a hand for changing it. */
function useField<T>({ model, at, name }: BoundProps) {
  const workspace = useWorkspace();
  const field = described(model, name);
  const places = (isSeveral(at) ? at : [at]).map((place) => [...place, name]);
  const value = useSlice((s) => {
    const [first, ...others] = places.map((place) => valueAt<T>(s.scene, place));
    return others.every((other) => isSame(first, other)) ? first : undefined;
  });
  const patch = (next: T) => places.map((place) => replace(pointer(...place), next));
  return {
    field,
    value,
    begin: (): Gesture<T> => {
      const gesture = workspace.begin(field.label);
      return { ...gesture, preview: (next) => gesture.preview(patch(next)) };
    },
    commit: (next: T) => workspace.commit(patch(next), field.label),
  };
}

/** A number; one that can be off comes with its switch. */
export function BoundQuantity(props: BoundProps) {
  const { field, value, begin } = useField<number | null>(props);
  if ("on" in field)
    return <OptionalQuantity field={field as unknown as OptionalField} value={value} begin={begin} />;
  return <Quantity field={field} value={value ?? undefined} begin={begin} />;
}

export function BoundColor(props: BoundProps) {
  const { field, value, begin } = useField<Color>(props);
  return <ColorField label={field.label} value={value} begin={begin} />;
}

/** One of a few words; `options` gives each its label. */
export function BoundChoice({ options, ...props }: BoundProps & { options: Record<string, string> }) {
  const { field, value, commit } = useField<string>(props);
  return (
    <ToggleButtonGroup
      exclusive
      fullWidth
      size="small"
      value={value}
      aria-label={field.label}
      onChange={(_, next: string | null) => next && commit(next)}
      sx={{ mb: 1.5 }}
    >
      {Object.entries(options).map(([key, label]) => (
        <ToggleButton key={key} value={key}>
          {label}
        </ToggleButton>
      ))}
    </ToggleButtonGroup>
  );
}

/** A place in the scene: one number for each axis, each of them an edit of the whole vector. */
export function BoundVector(props: BoundProps & { span: number }) {
  const { field, value, begin } = useField<Color>(props);
  const at = value ?? (field.default as unknown as Color);
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
            soft_minimum: -props.span,
            soft_maximum: props.span,
            step: 0.01,
            default: (field.default as unknown as Color)[axis]!,
          }}
          value={value?.[axis]}
          begin={() => beginAxis(axis)}
        />
      ))}
    </>
  );
}

export function BoundSwitch(props: BoundProps) {
  const { field, value, commit } = useField<boolean>(props);
  return (
    <FormControlLabel
      sx={{ ml: 0, mb: 0.5, width: "100%", justifyContent: "space-between" }}
      labelPlacement="start"
      control={<Switch checked={value ?? false} onChange={(_, checked) => commit(checked)} />}
      label={
        <Typography variant="body2" color="textSecondary">
          {field.label}
        </Typography>
      }
    />
  );
}

export function Section({ title, children }: { title: string; children: ReactNode }) {
  return (
    <Box component="section" sx={{ mb: 2 }}>
      <Typography variant="overline" component="h2" sx={{ display: "block", mb: 0.75, lineHeight: 1.6 }}>
        {title}
      </Typography>
      {children}
    </Box>
  );
}
