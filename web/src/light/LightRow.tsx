/** One light of the list: chosen, alone, on or off; dragged to another place. */
import Box from "@mui/material/Box";
import ListItem from "@mui/material/ListItem";
import ListItemButton from "@mui/material/ListItemButton";
import ListItemText from "@mui/material/ListItemText";
import Typography from "@mui/material/Typography";
import { Focus, Lightbulb, LightbulbOff, MoreHorizontal } from "lucide-react";
import type { Color, Light } from "../api/types";
import { toHex } from "../controls/color";
import { useWorkspace } from "../store/context";
import { pointer, replace } from "../store/patch";
import { Small } from "./CardList";

interface Props {
  id: string;
  light: Light;
  isChosen: boolean;
  isInFolder: boolean;
  share: string;
  onAbout: (anchor: HTMLElement) => void;
  drag: {
    onStart: () => void;
    onEnd: () => void;
    onOver: (event: React.DragEvent) => void;
    onDrop: () => void;
  };
}

export function LightRow({ id, light, isChosen, isInFolder, share, onAbout, drag }: Props) {
  const workspace = useWorkspace();
  const set = (name: string, value: boolean, label: string) =>
    workspace.commit([replace(pointer("lights", id, name), value)], label);
  return (
    <ListItem
      disablePadding
      draggable
      onDragStart={drag.onStart}
      onDragEnd={drag.onEnd}
      onDragOver={drag.onOver}
      onDrop={(event) => {
        event.stopPropagation();
        drag.onDrop();
      }}
      sx={isInFolder ? { pl: 1.5 } : {}}
      secondaryAction={
        <>
          <Small
            title={light.solo ? "Let all shine again" : "Let it shine alone"}
            name={`${light.solo ? "All lights besides" : "Alone:"} ${light.name}`}
            isOn={light.solo ?? false}
            onClick={() => set("solo", !light.solo, light.solo ? "All lights" : `Alone: ${light.name}`)}
          >
            <Focus size={14} />
          </Small>
          <Small
            title={light.enabled ? "Switch off" : "Switch on"}
            name={`${light.enabled ? "Switch off" : "Switch on"} ${light.name}`}
            onClick={() => set("enabled", !light.enabled, light.enabled ? "Light off" : "Light on")}
          >
            {light.enabled ? <Lightbulb size={14} /> : <LightbulbOff size={14} />}
          </Small>
          <Small
            title="More"
            name={`More about ${light.name}`}
            onClick={() => {
              const anchor = document.activeElement;
              if (anchor instanceof HTMLElement) onAbout(anchor);
            }}
          >
            <MoreHorizontal size={14} />
          </Small>
        </>
      }
    >
      <ListItemButton
        selected={isChosen}
        onClick={(event) => {
          const adds = event.ctrlKey || event.metaKey || event.shiftKey;
          if (adds) workspace.chooseLight(id, "add");
          else workspace.chooseLight(isChosen ? null : id);
        }}
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
          data-testid={`share-of-${id}`}
        >
          {light.enabled ? share : "off"}
        </Typography>
      </ListItemButton>
    </ListItem>
  );
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
