/** One layer of a material: which material it is, its place among the others, where it lies. */
import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import IconButton from "@mui/material/IconButton";
import Typography from "@mui/material/Typography";
import { ArrowDown, ArrowUp, Eye, EyeOff, Trash2 } from "lucide-react";
import { useMemo } from "react";
import type { LayerInput } from "../api/types";
import { BoundField } from "../controls/bound";
import { described } from "../controls/fields";
import { SourceMark } from "../controls/InputMark";
import { useScene, useWorkspace } from "../store/context";
import { pointer, replace } from "../store/patch";
import { SourceEditor } from "./InputEditor";

interface Props {
  material: string;
  /** Its place, from the lowest. */
  number: number;
  count: number;
  onInside: (material: string) => void;
}

export function LayerControls({ material, number, count, onInside }: Props) {
  const workspace = useWorkspace();
  const place = useMemo(() => ["materials", material, "layers", String(number)], [material, number]);
  const places = useMemo(() => [place], [place]);
  const layer = useScene((s) => s.materials[material]?.layers[number]);
  const name = useScene((s) => (layer && s.materials[layer.material]?.name) ?? "");
  if (!layer) return null;
  /** As a whole: laid twice over a document, a patch must not move or remove two. */
  const change = (label: string, to?: number) => {
    const { layers } = workspace.getState().scene.materials[material]!;
    const others = layers.toSpliced(number, 1);
    const list = to === undefined ? others : others.toSpliced(to, 0, layers[number]!);
    workspace.commit([replace(pointer("materials", material, "layers"), list)], label);
  };
  return (
    <Box component="section" aria-label={`Layer ${name}`} sx={{ mb: 1 }}>
      <Box sx={{ display: "flex", alignItems: "center" }}>
        <Typography noWrap variant="body2" component="h3" sx={{ flex: 1 }}>
          <ButtonBase
            title="Go to this material"
            onClick={() => onInside(layer.material)}
            sx={{
              fontFamily: "inherit",
              fontSize: "inherit",
              fontWeight: 600,
              "&:hover": { color: "primary.main" },
            }}
          >
            {name}
          </ButtonBase>
        </Typography>
        <IconButton
          size="small"
          aria-label={`${layer.enabled ? "Hide" : "Show"} the layer ${name}`}
          onClick={() =>
            workspace.commit(
              [replace(pointer(...place, "enabled"), !layer.enabled)],
              `${layer.enabled ? "Hide" : "Show"} ${name}`,
            )
          }
        >
          {layer.enabled ? <Eye size={14} /> : <EyeOff size={14} />}
        </IconButton>
        <IconButton
          size="small"
          aria-label={`Lift ${name}`}
          disabled={number === count - 1}
          onClick={() => change(`Lift ${name}`, number + 1)}
        >
          <ArrowUp size={14} />
        </IconButton>
        <IconButton
          size="small"
          aria-label={`Lower ${name}`}
          disabled={number === 0}
          onClick={() => change(`Lower ${name}`, number - 1)}
        >
          <ArrowDown size={14} />
        </IconButton>
        <IconButton
          size="small"
          aria-label={`Remove the layer ${name}`}
          onClick={() => change(`No ${name} over it`)}
        >
          <Trash2 size={14} />
        </IconButton>
      </Box>
      <BoundField model="Layer" places={places} name="coverage" />
      <BoundField model="Layer" places={places} name="thickness" />
      <Where material={material} number={number} which="mask" of={name} startsOpen={count === 1} />
      {layer.mask && (
        <Where material={material} number={number} which="breakup" of={name} startsOpen={count === 1} />
      )}
    </Box>
  );
}

interface WhereProps {
  material: string;
  number: number;
  which: LayerInput;
  of: string;
  startsOpen: boolean;
}

/** A mask of a layer, or what breaks it up. */
function Where({ material, number, which, of, startsOpen }: WhereProps) {
  const workspace = useWorkspace();
  const places = useMemo(
    () => [["materials", material, "layers", String(number), which]],
    [material, number, which],
  );
  const title = described("Layer", which).label;
  const label = `${title} of ${of}`;
  const unfolds = `layer.${number}.${which}`;
  const take = (kind: Parameters<typeof workspace.addMask>[3]) =>
    workspace.addMask(material, number, which, kind);
  return (
    <>
      <Box sx={{ display: "flex", alignItems: "center", minHeight: 26 }}>
        <Typography variant="body2" color="textSecondary">
          {title}
        </Typography>
        <SourceMark inputs={places} label={label} unfolds={unfolds} startsOpen={startsOpen} onTake={take} />
      </Box>
      <SourceEditor
        places={places}
        label={label}
        unfolds={unfolds}
        startsOpen={startsOpen}
        hasRamp={false}
        but={which === "mask" ? ["combine", "amount"] : []}
        onTake={take}
        onRemove={() => workspace.commit([replace(pointer(...places[0]!), null)], `No ${label}`)}
      />
    </>
  );
}
