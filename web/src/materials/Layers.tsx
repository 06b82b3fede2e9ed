/** The materials that lie over one: the uppermost first, each with its mask, and a menu that lays another over it. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import Typography from "@mui/material/Typography";
import { Layers2 } from "lucide-react";
import { useMemo, useState } from "react";
import { mostLayers } from "../api/fields.gen";
import { Fold } from "../controls/Fold";
import { useFinding } from "../controls/finding";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { LayerControls } from "./LayerControls";

const KEY = "Material.layers";

interface Props {
  material: string;
  /** Goes to the material of a layer. */
  onInside: (material: string) => void;
}

export function Layers({ material, onInside }: Props) {
  const workspace = useWorkspace();
  const finding = useFinding();
  const layers = useScene((s) => s.materials[material]?.layers) ?? [];
  const names = useScene((s) => layers.map((layer) => s.materials[layer.material]?.name ?? "").join(", "));
  const isOpen = useSlice((s) => s.unfolded[KEY]) ?? layers.length > 0;
  if (finding.query !== "" || finding.changedOnly) return null;
  return (
    <Fold
      title="Layers"
      summary={names || "none"}
      isOpen={isOpen}
      onToggle={() => workspace.unfold(KEY, !isOpen)}
    >
      {layers
        .map((_, index) => index)
        .reverse()
        .map((index) => (
          <LayerControls
            key={`${index} of ${layers.length}`}
            material={material}
            number={index}
            count={layers.length}
            onInside={onInside}
          />
        ))}
      {layers.length < mostLayers ? (
        <Another material={material} />
      ) : (
        <Typography variant="caption" color="textSecondary">
          No more than {mostLayers} lie over one material.
        </Typography>
      )}
    </Fold>
  );
}

function Another({ material }: { material: string }) {
  const workspace = useWorkspace();
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const materials = useScene((s) => s.materials);
  const others = useMemo(
    () => Object.entries(materials).filter(([key]) => key !== material),
    [materials, material],
  );
  return (
    <Box>
      <Button
        size="small"
        aria-haspopup="menu"
        startIcon={<Layers2 size={14} />}
        disabled={others.length === 0}
        onClick={(event) => setMenu(event.currentTarget)}
      >
        Lay a material over it
      </Button>
      <Menu anchorEl={menu} open={menu !== null} onClose={() => setMenu(null)}>
        {others.map(([key, { name }]) => (
          <MenuItem
            dense
            key={key}
            onClick={() => {
              setMenu(null);
              workspace.unfold(KEY, true);
              workspace.addLayer([material], key);
            }}
          >
            {name}
          </MenuItem>
        ))}
      </Menu>
    </Box>
  );
}
