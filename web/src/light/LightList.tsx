/** The lights of the scene: adding, choosing, measuring and shaping them. */
import Box from "@mui/material/Box";
import IconButton from "@mui/material/IconButton";
import List from "@mui/material/List";
import ListItem from "@mui/material/ListItem";
import ListItemButton from "@mui/material/ListItemButton";
import ListItemText from "@mui/material/ListItemText";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { Lightbulb, LightbulbOff, Plus, Trash2 } from "lucide-react";
import { useMemo, useState } from "react";
import { FieldGroups } from "../controls/FieldGroup";
import { Section } from "../controls/Section";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { pointer, replace } from "../store/patch";
import { KINDS, type LightKind, modelOf, nameOf } from "./lights";
import { ProfileField } from "./ProfileField";

export function LightList() {
  const workspace = useWorkspace();
  const lights = useScene((s) => s.lights);
  const chosen = useSlice((s) => s.light);
  const setChosen = workspace.chooseLight;
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const keys = Object.keys(lights).sort();

  const add = (kind: LightKind) => {
    setMenu(null);
    workspace.addLight(kind);
  };
  const remove = (key: string) => {
    workspace.commit([{ op: "remove", path: pointer("lights", key) }], `Remove ${lights[key]!.name}`);
    if (chosen === key) setChosen(null);
  };

  return (
    <Section title="Lights">
      {keys.length === 0 && (
        <Typography variant="body2" color="textSecondary" sx={{ mb: 0.5 }}>
          No light but the environment yet.
        </Typography>
      )}
      <List dense disablePadding aria-label="Lights">
        {keys.map((key) => (
          <ListItem
            key={key}
            disablePadding
            secondaryAction={
              <>
                <Tooltip title={lights[key]!.enabled ? "Switch off" : "Switch on"}>
                  <IconButton
                    size="small"
                    aria-label={`${lights[key]!.enabled ? "Switch off" : "Switch on"} ${lights[key]!.name}`}
                    onClick={() =>
                      workspace.commit(
                        [replace(pointer("lights", key, "enabled"), !lights[key]!.enabled)],
                        lights[key]!.enabled ? "Light off" : "Light on",
                      )
                    }
                  >
                    {lights[key]!.enabled ? <Lightbulb size={15} /> : <LightbulbOff size={15} />}
                  </IconButton>
                </Tooltip>
                <Tooltip title="Remove">
                  <IconButton
                    size="small"
                    aria-label={`Remove ${lights[key]!.name}`}
                    onClick={() => remove(key)}
                  >
                    <Trash2 size={15} />
                  </IconButton>
                </Tooltip>
              </>
            }
          >
            <ListItemButton selected={chosen === key} onClick={() => setChosen(chosen === key ? null : key)}>
              <ListItemText primary={lights[key]!.name} />
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
      </Menu>
      {chosen && lights[chosen] && <LightControls key={chosen} id={chosen} />}
    </Section>
  );
}

const OPEN = ["amount"];

function LightControls({ id }: { id: string }) {
  const light = useScene((s) => s.lights[id]!);
  const places = useMemo(() => [["lights", id]], [id]);
  const more = { shape: "profile" in light ? <ProfileField id={id} light={light} /> : null };
  return (
    <Box sx={{ mt: 0.5 }}>
      <FieldGroups model={modelOf(light.kind)} places={places} open={OPEN} more={more} />
    </Box>
  );
}
