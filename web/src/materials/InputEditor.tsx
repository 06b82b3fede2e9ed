/** The controls of an input, below the parameter that takes it: source, values or ramp, how it combines, placement. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import IconButton from "@mui/material/IconButton";
import ToggleButton from "@mui/material/ToggleButton";
import Typography from "@mui/material/Typography";
import { Move3d, Trash2 } from "lucide-react";
import { useMemo, useState } from "react";
import type { FileRef } from "../api/types";
import { ImageChoice } from "../asset/ImageChoice";
import { BoundField } from "../controls/bound";
import { described, groupsOf, hasEffect, type ModelName, type Place, valueAt } from "../controls/fields";
import { SourceMenu } from "../controls/InputMark";
import {
  type Input,
  inputKey,
  inputPlace,
  isPlaced,
  KINDS,
  type Parameter,
  type SourceKind,
  sourceModel,
  sourceName,
} from "../controls/inputs";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { isSame, pointer, replace } from "../store/patch";
import { FileChoice } from "./FileChoice";
import { PartChoice } from "./PartChoice";
import { RampEditor } from "./RampEditor";

/** Of a parameter of materials. */
export function InputEditor({ materials, name }: { materials: string[]; name: Parameter }) {
  const workspace = useWorkspace();
  const places = useMemo(
    () => materials.map((key) => inputPlace(["materials", key], name)),
    [materials, name],
  );
  const field = described("Material", name);
  return (
    <SourceEditor
      places={places}
      label={field.label}
      unfolds={inputKey(name)}
      hasRamp={field.kind === "color"}
      onTake={(kind) => workspace.addInput(materials, name, kind)}
      onRemove={() =>
        workspace.commit(
          places.map((place) => ({ op: "remove", path: pointer(...place) })),
          `No pattern for ${field.label}`,
        )
      }
    />
  );
}

interface Props {
  /** Where the inputs are; the array must stay the same while they do. */
  places: readonly Place[];
  /** What takes them. */
  label: string;
  /** What says of the window whether they are unfolded. */
  unfolds: string;
  startsOpen?: boolean;
  hasRamp: boolean;
  /** Fields of the input and of its placement that say nothing where it is. */
  but?: string[];
  /** Sources that can be taken; all unless given. */
  kinds?: readonly SourceKind[];
  onTake: (kind: SourceKind) => void;
  onRemove: () => void;
}

/** Of anything that takes an input. */
export function SourceEditor(props: Props) {
  // Of several those controls are shown that all of them have.
  const kind = useScene((s) => {
    const kinds = props.places.map((place) => (valueAt(s, place) as Input | null | undefined)?.source.kind);
    return kinds.every((each) => isSame(each, kinds[0])) ? kinds[0] : undefined;
  });
  const isOpen = useSlice((s) => s.unfolded[props.unfolds]) ?? props.startsOpen ?? true;
  return kind && isOpen ? <Open {...props} kind={kind} /> : null;
}

function Open({
  places,
  label,
  kind,
  hasRamp: takesRamp,
  but = [],
  kinds = KINDS,
  onTake,
  onRemove,
}: Props & { kind: SourceKind }) {
  const workspace = useWorkspace();
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const sources = useMemo(() => places.map((place) => [...place, "source"]), [places]);
  const placements = useMemo(() => places.map((place) => [...place, "placement"]), [places]);
  const texture = useScene((s) => (valueAt(s, [...sources[0]!, "texture"]) as number | undefined) ?? null);
  const file = useScene((s) => (valueAt(s, [...sources[0]!, "file"]) as FileRef | null | undefined) ?? null);
  const part = useScene((s) => (valueAt(s, [...sources[0]!, "part"]) as string | null | undefined) ?? null);
  const hasRamp = useScene((s) => Boolean(valueAt(s, [...places[0]!, "ramp"])));
  return (
    <Box
      component="section"
      aria-label={`${sourceName(kind)} of ${label}`}
      sx={{ ml: 1, pl: 1.25, mb: 1, borderLeft: "2px solid", borderColor: "primary.dark" }}
    >
      <Box sx={{ display: "flex", alignItems: "center" }}>
        <Button
          size="small"
          aria-haspopup="menu"
          onClick={(event) => setMenu(event.currentTarget)}
          sx={{ ml: -0.75, minWidth: 0, px: 0.75 }}
        >
          {sourceName(kind)}
        </Button>
        <Box sx={{ flex: 1 }} />
        <IconButton size="small" aria-label={`Remove the pattern of ${label}`} onClick={onRemove}>
          <Trash2 size={14} />
        </IconButton>
        <SourceMenu anchor={menu} kinds={kinds} onClose={() => setMenu(null)} onChoose={onTake} />
      </Box>
      {kind === "image" && (
        <ImageChoice
          label="Image"
          chosen={texture === null ? null : { texture, file: null, uv_set: 0, matrix: [1, 0, 0, 0, 1, 0] }}
          onChoose={(image) =>
            image &&
            workspace.commit(
              sources.map((place) => replace(pointer(...place, "texture"), image.texture)),
              "Image",
            )
          }
        />
      )}
      {(kind === "picture" || kind === "lit_ball") && (
        <FileChoice
          label={kind === "lit_ball" ? "Ball" : "Image"}
          isBall={kind === "lit_ball"}
          chosen={file}
          onChoose={(image) =>
            workspace.commit(
              sources.map((place) => replace(pointer(...place, "file"), image)),
              image.name,
            )
          }
        />
      )}
      {kind === "distance" && (
        <PartChoice
          label="Distance to"
          chosen={part}
          onChoose={(next) =>
            workspace.commit(
              sources.map((place) => replace(pointer(...place, "part"), next)),
              "Distance to a part",
            )
          }
        />
      )}
      <Fields model={sourceModel(kind)} places={sources} />
      {takesRamp && <RampEditor places={places} />}
      <Fields model="MaterialInput" places={places} but={hasRamp ? ["low", "high", ...but] : but} />
      {isPlaced(kind) && (
        <>
          <Box sx={{ display: "flex", alignItems: "center", mt: 0.5 }}>
            <Typography variant="caption" component="h3" color="textSecondary" sx={{ flex: 1 }}>
              Placement
            </Typography>
            <ByHand at={places[0]!} label={label} />
          </Box>
          <Fields model="Placement" places={placements} but={but} />
        </>
      )}
    </Box>
  );
}

/** Takes a placement in metres into the hand: its frame lies over the picture then. */
function ByHand({ at, label }: { at: Place; label: string }) {
  const workspace = useWorkspace();
  const isFramed = useScene((s) => valueAt(s, [...at, "placement", "kind"]) !== "uv");
  const isInHand = useSlice((s) => s.placing !== null && isSame(s.placing.at, at));
  if (!isFramed) return null;
  return (
    <ToggleButton
      size="small"
      value="hand"
      selected={isInHand}
      aria-label={`Place the pattern of ${label} by hand`}
      title="Move, size and turn it in the picture"
      onChange={() => workspace.set({ placing: isInHand ? null : { at, label: `the pattern of ${label}` } })}
      sx={{ p: 0.4, border: 0 }}
    >
      <Move3d size={14} />
    </ToggleButton>
  );
}

interface FieldsProps {
  model: ModelName;
  places: readonly Place[];
  but?: string[];
}

/** The rows of a model that have an effect, without headings. */
function Fields({ model, places, but = [] }: FieldsProps) {
  const rows = groupsOf(model).flatMap((group) => group.rows);
  const shown = useScene((s) =>
    rows.flatMap((row) => (hasEffect(s, places, row) && !but.includes(row.field) ? row.field : [])).join(" "),
  );
  return shown
    .split(" ")
    .filter(Boolean)
    .map((name) => <BoundField key={name} model={model} places={places} name={name} />);
}
