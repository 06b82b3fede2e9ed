/** Asset: what was brought in, its parts, framing it, bringing in another. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import IconButton from "@mui/material/IconButton";
import List from "@mui/material/List";
import ListItem from "@mui/material/ListItem";
import ListItemButton from "@mui/material/ListItemButton";
import ListItemText from "@mui/material/ListItemText";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { Eye, EyeOff, Plus, Scan, Trash2 } from "lucide-react";
import { addToSet } from "../actions/registry";
import { Section } from "../controls/bound";
import { ImportPad } from "../home/ImportPad";
import { useSlice, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { pointer, replace } from "../store/patch";

export function AssetStop() {
  const workspace = useWorkspace();
  const asset = useSlice((s) => s.scene.asset);
  return (
    <>
      <Typography sx={{ fontWeight: 600 }}>{asset?.name ?? "No asset"}</Typography>
      <Typography variant="caption" color="textSecondary" component="p" noWrap sx={{ mb: 1.5 }}>
        {asset?.file.name}
      </Typography>
      <Button
        fullWidth
        variant="outlined"
        size="small"
        startIcon={<Scan size={15} />}
        onClick={() => workspace.frameParts(SHOT, null)}
        sx={{ mb: 2 }}
      >
        Frame the asset
      </Button>
      <Section title="Parts">
        <PartsList />
      </Section>
      <PartSets />
      <ImportPad
        dense
        onDone={(project) =>
          workspace.notify({ severity: "info", text: "The new project is ready.", project })
        }
      />
    </>
  );
}

export function PartsList() {
  const workspace = useWorkspace();
  const parts = useSlice((s) => s.scene.parts);
  const materials = useSlice((s) => s.scene.materials);
  const selection = useSlice((s) => s.selection);
  // The database does not keep the order of keys; the asset's own order does not change.
  const ordered = Object.entries(parts).sort(([, a], [, b]) => a.mesh - b.mesh);
  return (
    <List dense disablePadding aria-label="Parts">
      {ordered.map(([key, part]) => (
        <ListItem
          key={key}
          disablePadding
          secondaryAction={
            <Tooltip title={part.visible ? "Hide" : "Show"}>
              <IconButton
                edge="end"
                size="small"
                aria-label={`${part.visible ? "Hide" : "Show"} ${part.name}`}
                onClick={() =>
                  workspace.commit(
                    [replace(pointer("parts", key, "visible"), !part.visible)],
                    `${part.visible ? "Hide" : "Show"} ${part.name}`,
                  )
                }
              >
                {part.visible ? <Eye size={15} /> : <EyeOff size={15} />}
              </IconButton>
            </Tooltip>
          }
        >
          <ListItemButton
            selected={selection.includes(key)}
            onClick={(event) => {
              const adds = event.shiftKey || event.ctrlKey || event.metaKey;
              if (adds) workspace.select([key], "add");
              else workspace.select(selection.length === 1 && selection[0] === key ? [] : [key]);
            }}
            sx={{
              borderRadius: 1,
              opacity: part.visible ? 1 : 0.5,
              borderLeft: "3px solid",
              borderLeftColor: selection.includes(key) ? "primary.main" : "transparent",
              py: 0.25,
            }}
          >
            <ListItemText
              primary={part.name}
              secondary={<Box component="span">{materials[part.material]?.name}</Box>}
              slotProps={{
                primary: { noWrap: true, sx: { fontSize: 13 } },
                secondary: { noWrap: true, sx: { fontSize: 11.5 } },
              }}
            />
          </ListItemButton>
        </ListItem>
      ))}
    </List>
  );
}

/** Named groups of parts: one click selects them. */
function PartSets() {
  const workspace = useWorkspace();
  const sets = useSlice((s) => s.scene.part_sets);
  const parts = useSlice((s) => s.scene.parts);
  const selection = useSlice((s) => s.selection);
  const keys = Object.keys(sets).sort();
  if (keys.length === 0 && selection.length === 0) return null;
  return (
    <Section title="Part sets">
      <List dense disablePadding aria-label="Part sets">
        {keys.map((key) => {
          const { name, parts: held } = sets[key]!;
          const there = held.filter((part) => part in parts);
          return (
            <ListItem
              key={key}
              disablePadding
              secondaryAction={
                <IconButton
                  edge="end"
                  size="small"
                  aria-label={`Remove ${name}`}
                  onClick={() =>
                    workspace.commit([{ op: "remove", path: pointer("part_sets", key) }], `Remove ${name}`)
                  }
                >
                  <Trash2 size={15} />
                </IconButton>
              }
            >
              <ListItemButton onClick={() => workspace.select(there)} sx={{ borderRadius: 1, py: 0.25 }}>
                <ListItemText
                  primary={name}
                  secondary={there.map((part) => parts[part]!.name).join(", ")}
                  slotProps={{
                    primary: { noWrap: true, sx: { fontSize: 13 } },
                    secondary: { noWrap: true, sx: { fontSize: 11.5 } },
                  }}
                />
              </ListItemButton>
            </ListItem>
          );
        })}
      </List>
      {selection.length > 0 && (
        <Button
          size="small"
          startIcon={<Plus size={15} />}
          onClick={() => addToSet(workspace, selection, null)}
        >
          A set of the selection
        </Button>
      )}
    </Section>
  );
}
