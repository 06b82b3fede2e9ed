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
import { pointer, replace } from "../store/patch";
import { ColorField } from "./ColorField";
import { type OptionalField, OptionalQuantity } from "./OptionalQuantity";
import { Quantity, type QuantityField } from "./Quantity";

export type ModelName = keyof typeof fields;

interface BoundProps {
  model: ModelName;
  at: string[]; // where the model's object lies in the document
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

function useField<T>({ model, at, name }: BoundProps) {
  const workspace = useWorkspace();
  const field = described(model, name);
  const steps = [...at, name];
  const value = useSlice((s) => valueAt<T>(s.scene, steps));
  const patch = (next: T) => [replace(pointer(...steps), next)];
  return {
    field,
    value,
    onPreview: (next: T) => workspace.preview(patch(next)),
    onCommit: (next: T) => workspace.commit(patch(next), field.label),
  };
}

/** A number; one that can be off comes with its switch. */
export function BoundQuantity(props: BoundProps) {
  const { field, value, ...rest } = useField<number | null>(props);
  if ("on" in field)
    return <OptionalQuantity field={field as unknown as OptionalField} value={value} {...rest} />;
  return <Quantity field={field} value={value as number} {...rest} />;
}

export function BoundColor(props: BoundProps) {
  const { field, ...rest } = useField<Color>(props);
  return <ColorField label={field.label} {...rest} />;
}

/** One of a few words; `options` gives each its label. */
export function BoundChoice({ options, ...props }: BoundProps & { options: Record<string, string> }) {
  const { field, value, onCommit } = useField<string>(props);
  return (
    <ToggleButtonGroup
      exclusive
      fullWidth
      size="small"
      value={value}
      aria-label={field.label}
      onChange={(_, next: string | null) => next && onCommit(next)}
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
  const { field, value, onPreview, onCommit } = useField<Color>(props);
  const changed = (axis: number, next: number) => value.map((old, i) => (i === axis ? next : old)) as Color;
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
          value={value[axis]!}
          onPreview={(next) => onPreview(changed(axis, next))}
          onCommit={(next) => onCommit(changed(axis, next))}
        />
      ))}
    </>
  );
}

export function BoundSwitch(props: BoundProps) {
  const { field, value, onCommit } = useField<boolean>(props);
  return (
    <FormControlLabel
      sx={{ ml: 0, mb: 0.5, width: "100%", justifyContent: "space-between" }}
      labelPlacement="start"
      control={<Switch checked={value} onChange={(_, checked) => onCommit(checked)} />}
      label={
        <Typography variant="body2" color="text.secondary">
          {field.label}
        </Typography>
      }
    />
  );
}

export function Section({ title, children }: { title: string; children: ReactNode }) {
  return (
    <Box component="section" sx={{ mb: 2 }}>
      <Typography variant="overline" component="h3" sx={{ display: "block", mb: 0.75, lineHeight: 1.6 }}>
        {title}
      </Typography>
      {children}
    </Box>
  );
}
