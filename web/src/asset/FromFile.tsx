/** What the asset's file holds besides what is shown: its clips, its cameras. */
import Button from "@mui/material/Button";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import { type ReactNode, useState } from "react";
import { useScene, useSlice, useWorkspace } from "../store/context";

/** The clip that the asset moves by, of a file with several. */
export function Clips() {
  const workspace = useWorkspace();
  const clips = useSlice((s) => s.opened?.clips);
  const chosen = useScene((s) => s.asset?.clip ?? null);
  if (!clips || clips.length < 2) return null;
  return (
    <Choice
      label={`Clip: ${chosen ?? clips[0]}`}
      names={clips}
      chosen={chosen ? clips.indexOf(chosen) : 0}
      onChoose={(index) => workspace.takeFromFile({ clip: clips[index]! })}
    />
  );
}

/** The cameras of the file, each of which the shot can be seen by. */
export function FileCameras() {
  const workspace = useWorkspace();
  const cameras = useSlice((s) => s.opened?.cameras);
  if (!cameras || cameras.length === 0) return null;
  return (
    <Choice
      label="See as a camera of the file"
      names={cameras}
      chosen={-1}
      onChoose={(camera) => workspace.takeFromFile({ camera })}
    />
  );
}

interface Props {
  label: ReactNode;
  names: readonly string[];
  chosen: number;
  onChoose: (index: number) => void;
}

function Choice({ label, names, chosen, onChoose }: Props) {
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button
        fullWidth
        variant="outlined"
        size="small"
        aria-haspopup="menu"
        onClick={(event) => setMenu(event.currentTarget)}
        sx={{ mb: 1 }}
      >
        {label}
      </Button>
      <Menu anchorEl={menu} open={menu !== null} onClose={() => setMenu(null)}>
        {/* By number: two cameras of a file may be called alike. */}
        {[...names.entries()].map(([index, name]) => (
          <MenuItem
            dense
            key={index}
            selected={index === chosen}
            onClick={() => {
              setMenu(null);
              onChoose(index);
            }}
          >
            {name}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
