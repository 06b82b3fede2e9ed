/** The decals on the selected parts: the uppermost first, and a menu that takes another into the hand. */
import Button from "@mui/material/Button";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import Typography from "@mui/material/Typography";
import { Sticker } from "lucide-react";
import { useState } from "react";
import { useShallow } from "zustand/react/shallow";
import type { DecalKind } from "../api/types";
import { Fold } from "../controls/Fold";
import { useFinding } from "../controls/finding";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { DecalControls } from "./DecalControls";
import { listed } from "./decalLists";

const KEY = "Decals";
const KINDS: Record<DecalKind, string> = {
  text: "Lettering",
  foil: "Lettering in foil",
  picture: "A picture",
};

export function Decals() {
  const workspace = useWorkspace();
  const finding = useFinding();
  const selection = useSlice((s) => s.selection);
  const decals = useScene((s) => s.decals);
  const chosen = useSlice((s) => s.decal);
  const keys = useScene(useShallow((s) => listed(s, selection)));
  const isOpen = useSlice((s) => s.unfolded[KEY]) ?? keys.length > 0;
  if (finding.query !== "" || finding.changedOnly) return null;
  return (
    <Fold
      title="Decals"
      summary={keys.map((key) => decals[key]!.name).join(", ") || "none"}
      isOpen={isOpen}
      onToggle={() => workspace.unfold(KEY, !isOpen)}
    >
      {keys.map((key) => (
        <DecalControls key={key} id={key} isOpen={key === chosen} />
      ))}
      <Another />
    </Fold>
  );
}

function Another() {
  const workspace = useWorkspace();
  const isSticking = useSlice((s) => s.tool === "stick");
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const take = (kind: DecalKind) => {
    setMenu(null);
    workspace.unfold(KEY, true);
    workspace.set({ tool: "stick", sticking: kind });
  };
  if (isSticking)
    return (
      <Typography variant="body2" color="secondary.main" sx={{ py: 0.5 }}>
        Press in the picture where it is to lie; Escape lets go.
      </Typography>
    );
  return (
    <>
      <Button
        size="small"
        aria-haspopup="menu"
        startIcon={<Sticker size={14} />}
        onClick={(event) => setMenu(event.currentTarget)}
      >
        Put a decal on it
      </Button>
      <Menu anchorEl={menu} open={menu !== null} onClose={() => setMenu(null)}>
        {(Object.entries(KINDS) as [DecalKind, string][]).map(([kind, label]) => (
          <MenuItem dense key={kind} onClick={() => take(kind)}>
            {label}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
