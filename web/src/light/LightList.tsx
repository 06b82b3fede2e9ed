/** The lights of the scene, those of one group in a folder: adding, choosing one or several, arranging them. */
import List from "@mui/material/List";
import ListItem from "@mui/material/ListItem";
import ListItemButton from "@mui/material/ListItemButton";
import ListItemText from "@mui/material/ListItemText";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import Typography from "@mui/material/Typography";
import { ChevronDown, ChevronRight, Focus, Lightbulb, LightbulbOff, Plus } from "lucide-react";
import { useState } from "react";
import type { Light } from "../api/types";
import { Section } from "../controls/Section";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { pointer, replace } from "../store/patch";
import { Small } from "./CardList";
import { LightControls } from "./LightControls";
import { LightMenu } from "./LightMenu";
import { LightRow } from "./LightRow";
import { type Folder, inFolders, inOrder, KINDS, type LightKind, nameOf, sharedGroups } from "./lights";
import type { GroupShare } from "./useShares";

const NO_ORDER: readonly string[] = [];

export function LightList({ shares }: { shares: readonly GroupShare[] | null }) {
  const workspace = useWorkspace();
  const lights = useScene((s) => s.lights);
  const order = useScene((s) => s.light_order ?? NO_ORDER);
  const chosen = useSlice((s) => s.light);
  const besides = useSlice((s) => s.besides);
  const unfolded = useSlice((s) => s.unfolded);
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const [about, setAbout] = useState<{ key: string; anchor: HTMLElement } | null>(null);
  const [carried, setCarried] = useState<string | null>(null);
  const entries = inOrder(lights, order as readonly string[]);
  const keys = entries.map(([key]) => key);
  const together = chosen === null ? [] : [chosen, ...besides];
  const shared = sharedGroups(lights);

  const add = (kind: LightKind) => {
    setMenu(null);
    workspace.addLight(kind);
  };
  const fromHere = async () => {
    setMenu(null);
    const { active } = workspace.getState();
    const key = await workspace.commitBy("light_from_here", active, { kind: "rectangle" });
    if (key) workspace.chooseLight(key);
  };
  /** Put a light before another, or behind the last; into the folder that the other lies in. */
  const move = (key: string, before: string | null) => {
    const others = keys.filter((each) => each !== key);
    const at = before === null ? others.length : others.indexOf(before);
    if (at < 0) return;
    const patch = [replace("/light_order", others.toSpliced(at, 0, key))];
    const group = before === null ? null : lights[before]!.group;
    if (group !== null && shared.has(group) && lights[key]!.group !== group)
      patch.push(replace(pointer("lights", key, "group"), group));
    workspace.commit(patch, "Order of the lights");
  };
  const row = (key: string, light: Light, isInFolder: boolean) => (
    <LightRow
      key={key}
      id={key}
      light={light}
      isChosen={together.includes(key)}
      isInFolder={isInFolder}
      share={isInFolder ? "" : shareOf(light.group, shares)}
      onAbout={(anchor) => setAbout({ key, anchor })}
      drag={{
        onStart: () => setCarried(key),
        onEnd: () => setCarried(null),
        onOver: (event) => carried && event.preventDefault(),
        onDrop: () => {
          if (carried && carried !== key) move(carried, key);
          setCarried(null);
        },
      }}
    />
  );

  return (
    <Section title="Lights">
      {keys.length === 0 && (
        <Typography variant="body2" color="textSecondary" sx={{ mb: 0.5 }}>
          No light but the environment yet.
        </Typography>
      )}
      <List dense disablePadding aria-label="Lights" sx={{ maxHeight: 320, overflowY: "auto" }}>
        {inFolders(entries, shared).map((folder) =>
          folder.group === null ? (
            row(folder.lights[0]![0], folder.lights[0]![1], false)
          ) : (
            <FolderRows
              key={folder.lights[0]![0]}
              folder={folder}
              isOpen={unfolded[folderKey(folder.group)] ?? true}
              share={shareOf(folder.group, shares)}
            >
              {folder.lights.map(([key, light]) => row(key, light, true))}
            </FolderRows>
          ),
        )}
      </List>
      <ListItemButton dense aria-haspopup="menu" onClick={(event) => setMenu(event.currentTarget)}>
        <Plus size={15} style={{ marginRight: 8 }} />
        <ListItemText primary="Add a light" />
      </ListItemButton>
      <Menu anchorEl={menu} open={menu !== null} onClose={() => setMenu(null)}>
        {KINDS.map((kind) => (
          <MenuItem key={kind} onClick={() => add(kind)}>
            {nameOf(kind)}
          </MenuItem>
        ))}
        <MenuItem onClick={() => void fromHere()}>From here: where the camera is</MenuItem>
      </Menu>
      {about && lights[about.key] && (
        <LightMenu
          id={about.key}
          light={lights[about.key]!}
          together={together.includes(about.key) ? together : [about.key]}
          anchor={about.anchor}
          onClose={() => setAbout(null)}
          onMove={(by) => {
            const at = keys.indexOf(about.key);
            move(about.key, (by < 0 ? keys[at - 1] : keys[at + 2]) ?? null);
          }}
        />
      )}
      {chosen && lights[chosen] && <LightControls key={chosen} id={chosen} />}
    </Section>
  );
}

const folderKey = (group: string) => `light.folder.${group}`;

interface FolderProps {
  folder: Folder;
  isOpen: boolean;
  share: string;
  children: React.ReactNode;
}

/** The lights of one group under its name; they are switched and let shine alone as one. */
function FolderRows({ folder, isOpen, share, children }: FolderProps) {
  const workspace = useWorkspace();
  const group = folder.group!;
  const members = folder.lights;
  const isLit = members.some(([, light]) => light.enabled);
  const isAlone = members.every(([, light]) => light.solo);
  const all = (name: string, value: boolean, label: string) =>
    workspace.commit(
      members.map(([key]) => replace(pointer("lights", key, name), value)),
      label,
    );
  const Arrow = isOpen ? ChevronDown : ChevronRight;
  return (
    <>
      <ListItem
        disablePadding
        secondaryAction={
          <>
            <Small
              title={isAlone ? "Let all shine again" : "Let them shine alone"}
              name={`${isAlone ? "All lights besides" : "Alone:"} the group ${group}`}
              isOn={isAlone}
              onClick={() => all("solo", !isAlone, isAlone ? "All lights" : `Alone: ${group}`)}
            >
              <Focus size={14} />
            </Small>
            <Small
              title={isLit ? "Switch all off" : "Switch all on"}
              name={`${isLit ? "Switch off" : "Switch on"} the group ${group}`}
              onClick={() => all("enabled", !isLit, isLit ? `${group} off` : `${group} on`)}
            >
              {isLit ? <Lightbulb size={14} /> : <LightbulbOff size={14} />}
            </Small>
          </>
        }
      >
        <ListItemButton
          aria-expanded={isOpen}
          onClick={() => workspace.unfold(folderKey(group), !isOpen)}
          sx={{ pl: 0.5 }}
        >
          <Arrow size={14} style={{ marginRight: 6 }} />
          <ListItemText primary={group} slotProps={{ primary: { noWrap: true, sx: { pr: 1 } } }} />
          <Typography variant="caption" color="textSecondary" sx={{ mr: 5 }}>
            {share}
          </Typography>
        </ListItemButton>
      </ListItem>
      {isOpen && children}
    </>
  );
}

/** Share of the light in the picture that a light group brings. */
function shareOf(group: string, shares: readonly GroupShare[] | null) {
  const found = shares?.find((each) => each.group === group);
  return found ? `${(found.share * 100).toFixed(found.share < 0.1 ? 1 : 0)} %` : "";
}
