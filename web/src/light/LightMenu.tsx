/** What is done with a light, or with all that are chosen with it. */
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import type { Light } from "../api/types";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { pointer, replace } from "../store/patch";
import { linked } from "./lights";

interface Props {
  id: string;
  light: Light;
  /** The light, or all that are edited together with it. */
  together: readonly string[];
  anchor: HTMLElement;
  onClose: () => void;
  onMove: (by: -1 | 1) => void;
}

export function LightMenu({ id, light, together, anchor, onClose, onMove }: Props) {
  const workspace = useWorkspace();
  const lights = useScene((s) => s.lights);
  const parts = useScene((s) => s.parts);
  const selection = useSlice((s) => s.selection);
  const unlit = light.unlit_parts ?? [];
  const many = together.length > 1 ? ` ${together.length} lights` : "";
  const doing = (run: () => void) => () => {
    onClose();
    run();
  };
  const all = (name: string, value: unknown, label: string) =>
    workspace.commit(
      together.map((key) => replace(pointer("lights", key, name), value)),
      label,
    );
  const chosenParts =
    selection.length === 1 ? (parts[selection[0]!]?.name ?? "") : `${selection.length} parts`;
  const link = (lightsThem: boolean, which: readonly string[], label: string) =>
    workspace.commit(
      together.map((key) =>
        replace(pointer("lights", key, "unlit_parts"), linked(lights[key]!, which, lightsThem)),
      ),
      label,
    );
  const rename = () => {
    const name = prompt("Name of the light", light.name)?.trim();
    if (name && name !== light.name)
      workspace.commit([replace(pointer("lights", id, "name"), name)], `Rename to ${name}`);
  };
  const group = () => {
    const name = prompt("Light group: lights of one group share a fader and a folder", light.group)?.trim();
    if (name) all("group", name, `Group: ${name}`);
  };
  const copy = async (mirrors: boolean) => {
    const key = await workspace.commitBy("copy_light", SHOT, { light: id, mirrors });
    if (key) workspace.chooseLight(key);
  };
  const remove = () =>
    workspace.commit(
      together.map((key) => ({ op: "remove" as const, path: pointer("lights", key) })),
      many ? `Remove${many}` : `Remove ${light.name}`,
    );
  return (
    <Menu anchorEl={anchor} open onClose={onClose} slotProps={{ list: { dense: true } }}>
      <MenuItem onClick={doing(rename)}>Rename</MenuItem>
      <MenuItem onClick={doing(group)}>{many ? `Group${many}` : `Light group: ${light.group}`}</MenuItem>
      <MenuItem onClick={doing(() => void copy(false))}>Duplicate</MenuItem>
      <MenuItem onClick={doing(() => void copy(true))}>Mirror to the other side</MenuItem>
      <MenuItem onClick={doing(() => all("locked", !light.locked, light.locked ? "Unlock" : "Lock"))}>
        {light.locked ? `Unlock${many}` : `Lock${many}: the hand leaves ${many ? "them" : "it"} alone`}
      </MenuItem>
      {many && (
        <MenuItem
          onClick={doing(() =>
            all("enabled", !lights[id]!.enabled, light.enabled ? "Lights off" : "Lights on"),
          )}
        >
          {`Switch ${light.enabled ? "off" : "on"}${many}`}
        </MenuItem>
      )}
      {selection.some((part) => !unlit.includes(part)) && (
        <MenuItem onClick={doing(() => link(false, selection, `No light on ${chosenParts}`))}>
          {`Keep off ${chosenParts}`}
        </MenuItem>
      )}
      {selection.some((part) => unlit.includes(part)) && (
        <MenuItem onClick={doing(() => link(true, selection, `Light on ${chosenParts}`))}>
          {`Light ${chosenParts} again`}
        </MenuItem>
      )}
      {unlit.length > 0 && (
        <MenuItem onClick={doing(() => link(true, unlit, "Light on every part"))}>
          {`Light every part again: ${unlit.length} kept off`}
        </MenuItem>
      )}
      <MenuItem onClick={doing(() => onMove(-1))}>Further up</MenuItem>
      <MenuItem onClick={doing(() => onMove(1))}>Further down</MenuItem>
      <MenuItem onClick={doing(remove)}>{`Remove${many}`}</MenuItem>
    </Menu>
  );
}
