/** The cards that are painted onto the environment: choosing, switching, shaping them. */
import Box from "@mui/material/Box";
import IconButton from "@mui/material/IconButton";
import List from "@mui/material/List";
import ListItem from "@mui/material/ListItem";
import ListItemButton from "@mui/material/ListItemButton";
import ListItemText from "@mui/material/ListItemText";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import Tooltip from "@mui/material/Tooltip";
import { Eye, EyeOff, Focus, Map as MapIcon, Plus, Trash2 } from "lucide-react";
import { useMemo, useState } from "react";
import { FieldGroups } from "../controls/FieldGroup";
import { described } from "../controls/fields";
import { Section } from "../controls/Section";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { pointer, replace } from "../store/patch";
import { ImageField } from "./ImageField";
import { byName } from "./lights";

const OPEN = ["card", "shape"];

export function CardList() {
  const workspace = useWorkspace();
  const cards = useScene((s) => s.environment.cards ?? {});
  const chosen = useSlice((s) => s.card);
  const isUnrolled = useSlice((s) => s.unrolled);
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const shapes = Object.entries(described("Card", "shape").options ?? {});
  const at = (key: string, ...rest: string[]) => pointer("environment", "cards", key, ...rest);

  const choose = (key: string | null) => {
    if (key !== null) workspace.chooseLight(null);
    workspace.set({ card: key });
  };
  const add = async (shape: string) => {
    setMenu(null);
    const key = await workspace.commitBy("make_card", SHOT, { shape });
    if (key) choose(key);
  };
  return (
    <Section title="Cards">
      <List dense disablePadding aria-label="Cards">
        {byName(cards).map(([key, card]) => (
          <ListItem
            key={key}
            disablePadding
            secondaryAction={
              <>
                <Small
                  title={card.solo ? "Show all again" : "Show it alone"}
                  name={`${card.solo ? "All cards besides" : "Alone:"} ${card.name}`}
                  onClick={() =>
                    workspace.commit([replace(at(key, "solo"), !card.solo)], `Alone: ${card.name}`)
                  }
                  isOn={card.solo ?? false}
                >
                  <Focus size={14} />
                </Small>
                <Small
                  title={card.enabled ? "Switch off" : "Switch on"}
                  name={`${card.enabled ? "Switch off" : "Switch on"} ${card.name}`}
                  onClick={() =>
                    workspace.commit([replace(at(key, "enabled"), !card.enabled)], `Switch ${card.name}`)
                  }
                >
                  {card.enabled ? <Eye size={14} /> : <EyeOff size={14} />}
                </Small>
                <Small
                  title="Remove"
                  name={`Remove ${card.name}`}
                  onClick={() => workspace.commit([{ op: "remove", path: at(key) }], `Remove ${card.name}`)}
                >
                  <Trash2 size={14} />
                </Small>
              </>
            }
          >
            <ListItemButton selected={chosen === key} onClick={() => choose(chosen === key ? null : key)}>
              <ListItemText primary={card.name} slotProps={{ primary: { noWrap: true, sx: { pr: 8 } } }} />
            </ListItemButton>
          </ListItem>
        ))}
      </List>
      <ListItemButton dense aria-haspopup="menu" onClick={(event) => setMenu(event.currentTarget)}>
        <Plus size={15} style={{ marginRight: 8 }} />
        <ListItemText primary="Add a card" />
      </ListItemButton>
      <ListItemButton
        dense
        aria-pressed={isUnrolled}
        onClick={() => workspace.set({ unrolled: !isUnrolled })}
      >
        <MapIcon size={15} style={{ marginRight: 8 }} />
        <ListItemText primary={isUnrolled ? "Roll the map up" : "Unroll the map"} />
      </ListItemButton>
      <Menu anchorEl={menu} open={menu !== null} onClose={() => setMenu(null)}>
        {shapes.map(([shape, word]) => (
          <MenuItem key={shape} onClick={() => add(shape)}>
            {word}
          </MenuItem>
        ))}
      </Menu>
      {chosen && cards[chosen] && <CardControls key={chosen} id={chosen} />}
    </Section>
  );
}

function CardControls({ id }: { id: string }) {
  const workspace = useWorkspace();
  const places = useMemo(() => [["environment", "cards", id]], [id]);
  const { shape, image } = useScene((s) => s.environment.cards![id]!);
  const more = {
    shape: shape === "image" && (
      <ImageField
        label="Image of the card"
        none="None yet"
        file={image ?? null}
        onFile={(file, name) =>
          workspace.commit([replace(pointer("environment", "cards", id, "image"), file)], `Card: ${name}`)
        }
      />
    ),
  };
  return (
    <Box sx={{ mt: 0.5 }}>
      <FieldGroups model="Card" places={places} open={OPEN} more={more} />
    </Box>
  );
}

interface SmallProps {
  title: string;
  name: string;
  onClick: (event: React.MouseEvent<HTMLElement>) => void;
  isOn?: boolean;
  children: React.ReactNode;
}

/** A small button of a row. */
export function Small({ title, name, onClick, isOn = false, children }: SmallProps) {
  return (
    <Tooltip title={title}>
      <IconButton
        size="small"
        aria-label={name}
        onClick={onClick}
        sx={{ p: 0.4, color: isOn ? "secondary.main" : "inherit" }}
      >
        {children}
      </IconButton>
    </Tooltip>
  );
}
