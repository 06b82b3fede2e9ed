/** The lights of the scene: adding, choosing, switching, arranging and shaping them. */
import Box from "@mui/material/Box";
import List from "@mui/material/List";
import ListItem from "@mui/material/ListItem";
import ListItemButton from "@mui/material/ListItemButton";
import ListItemText from "@mui/material/ListItemText";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import Typography from "@mui/material/Typography";
import { Focus, Lightbulb, LightbulbOff, MoreHorizontal, Plus } from "lucide-react";
import { useMemo, useState } from "react";
import type { Color, Light } from "../api/types";
import { toHex } from "../controls/color";
import { FieldGroups } from "../controls/FieldGroup";
import { Section } from "../controls/Section";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { pointer, replace } from "../store/patch";
import { Small } from "./CardList";
import { inOrder, KINDS, type LightKind, modelOf, nameOf } from "./lights";
import { ProfileField } from "./ProfileField";
import { ShapingFields } from "./ShapingFields";
import type { GroupShare } from "./useShares";

const OPEN = ["amount"];
const NO_ORDER: readonly string[] = [];

export function LightList({ shares }: { shares: readonly GroupShare[] | null }) {
  const workspace = useWorkspace();
  const lights = useScene((s) => s.lights);
  const order = useScene((s) => s.light_order ?? NO_ORDER);
  const chosen = useSlice((s) => s.light);
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const [about, setAbout] = useState<{ key: string; anchor: HTMLElement } | null>(null);
  const [carried, setCarried] = useState<string | null>(null);
  const entries = inOrder(lights, order as readonly string[]);
  const keys = entries.map(([key]) => key);

  const add = (kind: LightKind) => {
    setMenu(null);
    workspace.addLight(kind);
  };
  const fromHere = async () => {
    setMenu(null);
    const { active } = workspace.getState();
    const key = await workspace.lightBy("light_from_here", active, { kind: "rectangle" });
    if (key) workspace.chooseLight(key);
  };
  /** Put a light before another, or behind the last. */
  const move = (key: string, before: string | null) => {
    const others = keys.filter((each) => each !== key);
    const at = before === null ? others.length : others.indexOf(before);
    if (at < 0) return;
    workspace.commit([replace("/light_order", others.toSpliced(at, 0, key))], "Order of the lights");
  };

  return (
    <Section title="Lights">
      {keys.length === 0 && (
        <Typography variant="body2" color="textSecondary" sx={{ mb: 0.5 }}>
          No light but the environment yet.
        </Typography>
      )}
      <List dense disablePadding aria-label="Lights" sx={{ maxHeight: 320, overflowY: "auto" }}>
        {entries.map(([key, light]) => (
          <ListItem
            key={key}
            disablePadding
            draggable
            onDragStart={() => setCarried(key)}
            onDragEnd={() => setCarried(null)}
            onDragOver={(event) => carried && event.preventDefault()}
            onDrop={(event) => {
              event.stopPropagation();
              if (carried && carried !== key) move(carried, key);
              setCarried(null);
            }}
            secondaryAction={
              <>
                <Small
                  title={light.solo ? "Let all shine again" : "Let it shine alone"}
                  name={`${light.solo ? "All lights besides" : "Alone:"} ${light.name}`}
                  isOn={light.solo ?? false}
                  onClick={() =>
                    workspace.commit(
                      [replace(pointer("lights", key, "solo"), !light.solo)],
                      light.solo ? "All lights" : `Alone: ${light.name}`,
                    )
                  }
                >
                  <Focus size={14} />
                </Small>
                <Small
                  title={light.enabled ? "Switch off" : "Switch on"}
                  name={`${light.enabled ? "Switch off" : "Switch on"} ${light.name}`}
                  onClick={() =>
                    workspace.commit(
                      [replace(pointer("lights", key, "enabled"), !light.enabled)],
                      light.enabled ? "Light off" : "Light on",
                    )
                  }
                >
                  {light.enabled ? <Lightbulb size={14} /> : <LightbulbOff size={14} />}
                </Small>
                <Small
                  title="More"
                  name={`More about ${light.name}`}
                  onClick={() => {
                    const anchor = document.activeElement;
                    if (anchor instanceof HTMLElement) setAbout({ key, anchor });
                  }}
                >
                  <MoreHorizontal size={14} />
                </Small>
              </>
            }
          >
            <ListItemButton
              selected={chosen === key}
              onClick={() => workspace.chooseLight(chosen === key ? null : key)}
            >
              <Dot light={light} />
              <ListItemText
                primary={light.name}
                slotProps={{ primary: { noWrap: true, sx: { pr: 1 } } }}
                sx={{ minWidth: 0 }}
              />
              <Typography
                variant="caption"
                color="textSecondary"
                sx={{ mr: 7, flexShrink: 0 }}
                data-testid={`share-of-${key}`}
              >
                {light.enabled ? shareOf(light, lights, shares) : "off"}
              </Typography>
            </ListItemButton>
          </ListItem>
        ))}
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

/** Share of the light in the picture: of a light's group, which is its own unless it shares one. */
function shareOf(light: Light, all: Record<string, Light>, shares: readonly GroupShare[] | null) {
  const found = shares?.find(({ group }) => group === light.group);
  if (!found) return "";
  const isShared = Object.values(all).filter((each) => each.group === light.group).length > 1;
  const text = `${(found.share * 100).toFixed(found.share < 0.1 ? 1 : 0)} %`;
  return isShared ? `${light.group} ${text}` : text;
}

/** The colour of a light before its gel. */
function Dot({ light }: { light: Light }) {
  return (
    <Box
      aria-hidden
      sx={{ width: 10, height: 10, mr: 1, borderRadius: "50%", flexShrink: 0, border: "1px solid #555" }}
      style={{ background: toHex(light.color as Color), opacity: light.enabled ? 1 : 0.35 }}
    />
  );
}

interface MenuProps {
  id: string;
  light: Light;
  anchor: HTMLElement;
  onClose: () => void;
  onMove: (by: -1 | 1) => void;
}

function LightMenu({ id, light, anchor, onClose, onMove }: MenuProps) {
  const workspace = useWorkspace();
  const at = pointer("lights", id);
  const doing = (run: () => void) => () => {
    onClose();
    run();
  };
  const rename = () => {
    const name = prompt("Name of the light", light.name)?.trim();
    if (name && name !== light.name) workspace.commit([replace(`${at}/name`, name)], `Rename to ${name}`);
  };
  const group = () => {
    const name = prompt("Light group: lights of one group share a fader", light.group)?.trim();
    if (name && name !== light.group) workspace.commit([replace(`${at}/group`, name)], `Group: ${name}`);
  };
  const copy = async (mirrors: boolean) => {
    const key = await workspace.lightBy("copy_light", SHOT, { light: id, mirrors });
    if (key) workspace.chooseLight(key);
  };
  return (
    <Menu anchorEl={anchor} open onClose={onClose} slotProps={{ list: { dense: true } }}>
      <MenuItem onClick={doing(rename)}>Rename</MenuItem>
      <MenuItem onClick={doing(group)}>Light group: {light.group}</MenuItem>
      <MenuItem onClick={doing(() => void copy(false))}>Duplicate</MenuItem>
      <MenuItem onClick={doing(() => void copy(true))}>Mirror to the other side</MenuItem>
      <MenuItem
        onClick={doing(() =>
          workspace.commit([replace(`${at}/locked`, !light.locked)], light.locked ? "Unlock" : "Lock"),
        )}
      >
        {light.locked ? "Unlock" : "Lock: the hand leaves it alone"}
      </MenuItem>
      <MenuItem onClick={doing(() => onMove(-1))}>Further up</MenuItem>
      <MenuItem onClick={doing(() => onMove(1))}>Further down</MenuItem>
      <MenuItem onClick={doing(() => workspace.commit([{ op: "remove", path: at }], `Remove ${light.name}`))}>
        Remove
      </MenuItem>
    </Menu>
  );
}

function LightControls({ id }: { id: string }) {
  const light = useScene((s) => s.lights[id]!);
  const places = useMemo(() => [["lights", id]], [id]);
  const more = {
    shape: (
      <>
        {"profile" in light && <ProfileField id={id} light={light} />}
        <ShapingFields id={id} light={light} />
      </>
    ),
  };
  return (
    <Box sx={{ mt: 0.5 }}>
      <FieldGroups model={modelOf(light.kind)} places={places} open={OPEN} more={more} />
    </Box>
  );
}
