/** A group of fields as the core lists them: it folds, shows what has an effect, and takes part in finding. */
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import { Fragment, type ReactNode } from "react";
import type { Color } from "../api/types";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { isSame } from "../store/patch";
import { BoundField } from "./bound";
import { toHex } from "./color";
import { Fold } from "./Fold";
import {
  described,
  descriptionOf,
  type Group,
  groupsOf,
  hasEffect,
  isChanged,
  type ModelName,
  type Place,
  type Row,
  valueAt,
} from "./fields";
import { type Finding, isFound, useFinding } from "./finding";
import { fittingScale, written } from "./reading";

interface GroupProps {
  model: ModelName;
  /** Of which objects; the array must stay the same while they do. */
  places: readonly Place[];
  group: Group;
  startsOpen?: boolean;
  under?: ((name: string) => ReactNode) | undefined;
  instead?: Record<string, ReactNode> | undefined;
  aside?: ReactNode;
  children?: ReactNode;
}

interface GroupsProps extends Pick<GroupProps, "model" | "places"> {
  /** Groups that start unfolded, by key. */
  open: readonly string[];
  /** What a group holds besides its fields, by key. */
  more?: Record<string, ReactNode>;
  /** What stands below the control of a field, by the field's name; the function must stay the same. */
  under?: (name: string) => ReactNode;
  /** What stands in the place of the control of a field, by the field's name; the object must stay the same. */
  instead?: Record<string, ReactNode>;
  /** What stands behind the headings. */
  aside?: ReactNode;
  /** The groups that are shown, by key; all of them without it. */
  only?: readonly string[];
}

/** All groups of a model. */
export function FieldGroups({ model, places, open, more = {}, under, instead, aside, only }: GroupsProps) {
  const shown = groupsOf(model).filter((group) => only?.includes(group.key) ?? true);
  return shown.map((group) => (
    <FieldGroup
      key={group.key}
      model={model}
      places={places}
      group={group}
      startsOpen={open.includes(group.key)}
      under={under}
      instead={instead}
      aside={aside}
    >
      {more[group.key]}
    </FieldGroup>
  ));
}

function FieldGroup({
  model,
  places,
  group,
  startsOpen = false,
  under,
  instead,
  aside,
  children,
}: GroupProps) {
  const workspace = useWorkspace();
  const finding = useFinding();
  const key = `${model}.${group.key}`;
  const chosen = useSlice((s) => s.unfolded[key]);
  // One subscription for all rows; what it says changes seldom.
  const standing = useScene((s) =>
    group.rows.map((row) => standingOf(s, model, places, row, finding)).join(""),
  );
  const looks = finding.query !== "" || finding.changedOnly;
  const shows = [...standing].some((letter) => letter !== HIDDEN);
  if (!shows && (looks || !children)) return null;
  const isOpen = looks || (chosen ?? startsOpen);
  return (
    <Fold
      title={group.label}
      summary={<Summary model={model} places={places} group={group} />}
      aside={aside}
      isOpen={isOpen}
      onToggle={() => workspace.unfold(key, !isOpen)}
    >
      {group.rows.map((row, i) =>
        standing[i] === SHOWN ? (
          <Fragment key={row.field}>
            {instead?.[row.field] ?? <BoundField model={model} places={places} name={row.field} />}
            {under?.(row.field)}
          </Fragment>
        ) : (
          standing[i] === NEEDS && <Needs key={row.field} model={model} row={row} />
        ),
      )}
      {children}
    </Fold>
  );
}

const [SHOWN, NEEDS, HIDDEN] = ["s", "n", "h"];

function standingOf(scene: unknown, model: ModelName, places: readonly Place[], row: Row, finding: Finding) {
  if (!isFound(described(model, row.field).label, finding.query)) return HIDDEN;
  if (finding.changedOnly && !isChanged(scene, places, model, row.field)) return HIDDEN;
  if (hasEffect(scene, places, row)) return SHOWN;
  return finding.query ? NEEDS : HIDDEN;
}

/** One that was looked for, and has no effect as things are. */
function Needs({ model, row }: { model: ModelName; row: Row }) {
  const needed = row.when.flatMap(({ field }) => descriptionOf(model, field)?.label ?? []);
  return (
    <Box sx={{ display: "flex", minHeight: 26, alignItems: "center", gap: 1 }}>
      <Typography variant="body2" color="textSecondary" noWrap sx={{ flex: 1 }}>
        {described(model, row.field).label}
      </Typography>
      <Typography variant="caption" color="textSecondary" noWrap>
        {needed.length > 0 ? `needs ${needed.join(" or ")}` : "needs a map"}
      </Typography>
    </Box>
  );
}

type Sum = { key: string } & ({ text: string } | { color: string });

/** What a value is called in one word or two; nothing where it says nothing. */
function sumOf(
  scene: unknown,
  model: ModelName,
  places: readonly Place[],
  name: string,
  word: string,
): Sum[] {
  const [value, ...others] = places.map((place) => valueAt(scene, [...place, name]));
  if (!others.every((other) => isSame(value, other)))
    return [{ key: name, text: word ? `${word} mixed` : "mixed" }];
  const field = described(model, name);
  const lead = word ? `${word} ` : "";
  switch (field.kind) {
    case "color":
      return [{ key: name, color: toHex(value as Color) }];
    case "choice":
      return [{ key: name, text: lead + (field.options?.[value as string] ?? "") }];
    case "place":
      return [
        { key: name, text: (value as Color).map((v) => lengthOf(v, field.unit ?? "", 0.001)).join(", ") },
      ];
  }
  if (value === null) return [{ key: name, text: field.off ?? "off" }];
  if (typeof value === "boolean") return value ? [{ key: name, text: word || field.label }] : [];
  if (typeof value !== "number") return [];
  return [{ key: name, text: lead + lengthOf(value, field.unit ?? "", field.step ?? 1) }];
}

function lengthOf(value: number, unit: string, step: number): string {
  const scale = fittingScale(value, unit);
  const amount = written(value, scale, step);
  return scale.word === "f/" ? `f/${amount}` : `${amount} ${scale.word}`.trim();
}

function Summary({ model, places, group }: Omit<GroupProps, "startsOpen" | "under" | "aside" | "children">) {
  const said = useScene((s) => {
    const { weight } = group;
    const isOff = weight !== null && places.every((place) => !valueAt(s, [...place, weight]));
    const sums: Sum[] = isOff
      ? [{ key: "none", text: "none" }]
      : group.sums.flatMap(({ field, word }) => sumOf(s, model, places, field, word));
    return JSON.stringify(sums);
  });
  return (JSON.parse(said) as Sum[]).map((sum, i) =>
    "color" in sum ? (
      <Box
        key={sum.key}
        component="span"
        title={sum.color}
        sx={{ width: 12, height: 12, flexShrink: 0, borderRadius: "3px", border: "1px solid #555" }}
        style={{ background: sum.color }}
      />
    ) : (
      <span key={sum.key}>
        {i > 0 && "· "}
        {sum.text}
      </span>
    ),
  );
}
