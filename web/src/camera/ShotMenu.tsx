/** What can be done with a shot, and what it brings besides its camera: a look and conditions of its own. */
import Checkbox from "@mui/material/Checkbox";
import Divider from "@mui/material/Divider";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import Radio from "@mui/material/Radio";
import { MoreHorizontal } from "lucide-react";
import { useState } from "react";
import type { Shot } from "../api/types";
import { Small } from "../light/CardList";
import { byName } from "../light/lights";
import { useScene, useWorkspace } from "../store/context";
import { inOrder, movedInOrder } from "../store/order";
import { SHOT } from "../store/panes";
import { pointer, replace } from "../store/patch";

const BOX = { p: 0.25, mr: 1 };

export function ShotMenu({ id, shot }: { id: string; shot: Shot }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Small
        title="More"
        name={`More about ${shot.name}`}
        onClick={(event) => setAnchor(event.currentTarget)}
      >
        <MoreHorizontal size={13} />
      </Small>
      {anchor && <Opened id={id} shot={shot} anchor={anchor} onClose={() => setAnchor(null)} />}
    </>
  );
}

interface OpenedProps {
  id: string;
  shot: Shot;
  anchor: HTMLElement;
  onClose: () => void;
}

function Opened({ id, shot, anchor, onClose }: OpenedProps) {
  const workspace = useWorkspace();
  const scene = useScene((s) => s);
  const { name, locked } = shot;
  const order = inOrder(scene.shots, scene.shot_order).map(([key]) => key);
  const place = order.indexOf(id);
  const set = (field: keyof Shot, value: unknown, label: string) =>
    workspace.commit([replace(pointer("shots", id, field), value)], `${label}: ${name}`);
  const closing = (act: () => void) => () => {
    onClose();
    act();
  };
  const rename = () => {
    const next = prompt("Name of this shot", name)?.trim();
    if (next && next !== name) set("name", next, "Rename");
  };
  const move = (by: number) =>
    workspace.commit([replace("/shot_order", movedInOrder(order, place, by))], `Order of ${name}`);
  const conditions: [string | null, string][] = [
    [null, "Those that are there"],
    ...byName(scene.conditions ?? {}).map(([key, one]): [string, string] => [key, one.name]),
  ];
  return (
    <Menu anchorEl={anchor} open onClose={onClose} slotProps={{ list: { dense: true } }}>
      <MenuItem onClick={closing(rename)}>Rename</MenuItem>
      <MenuItem onClick={closing(() => void workspace.commitBy("copy_shot", SHOT, { shot: id }))}>
        Copy
      </MenuItem>
      <MenuItem onClick={closing(() => set("locked", !locked, locked ? "Unlock" : "Lock"))}>
        {locked ? "Unlock" : "Lock"}
      </MenuItem>
      <MenuItem disabled={place <= 0} onClick={closing(() => move(-1))}>
        Earlier
      </MenuItem>
      <MenuItem disabled={place >= order.length - 1} onClick={closing(() => move(1))}>
        Later
      </MenuItem>
      <MenuItem
        disabled={locked}
        onClick={closing(() =>
          workspace.commit([{ op: "remove", path: pointer("shots", id) }], `Remove ${name}`),
        )}
      >
        Remove
      </MenuItem>
      <Divider />
      <MenuItem
        role="menuitemcheckbox"
        aria-checked={shot.look !== null}
        disabled={locked}
        onClick={closing(() => set("look", shot.look === null ? scene.look : null, "Look of its own"))}
      >
        <Checkbox size="small" checked={shot.look !== null} tabIndex={-1} sx={BOX} />
        Brings the look of now
      </MenuItem>
      {conditions.length > 1 && (
        <Divider textAlign="left" sx={{ fontSize: 11.5 }}>
          Conditions
        </Divider>
      )}
      {conditions.length > 1 &&
        conditions.map(([key, word]) => (
          <MenuItem
            key={word}
            role="menuitemradio"
            aria-checked={shot.conditions === key}
            disabled={locked}
            onClick={closing(() => set("conditions", key, "Conditions of its own"))}
          >
            <Radio size="small" checked={shot.conditions === key} tabIndex={-1} sx={BOX} />
            {word}
          </MenuItem>
        ))}
    </Menu>
  );
}
