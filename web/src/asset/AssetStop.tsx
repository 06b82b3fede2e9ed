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
import { Eye, EyeOff, Scan } from "lucide-react";
import { Section } from "../controls/bound";
import { ImportPad } from "../home/ImportPad";
import { useSlice, useWorkspace } from "../store/context";
import { pointer, replace } from "../store/patch";

export function AssetStop() {
  const workspace = useWorkspace();
  const asset = useSlice((s) => s.scene.asset);
  return (
    <>
      <Typography sx={{ fontWeight: 600 }}>{asset?.name ?? "No asset"}</Typography>
      <Typography variant="caption" color="text.secondary" component="p" noWrap sx={{ mb: 1.5 }}>
        {asset?.file.name}
      </Typography>
      <Button
        fullWidth
        variant="outlined"
        size="small"
        startIcon={<Scan size={15} />}
        onClick={() => workspace.fit()}
        sx={{ mb: 2 }}
      >
        Frame the asset
      </Button>
      <Section title="Parts">
        <PartsList />
      </Section>
      <ImportPad dense onDone={(id) => (location.hash = `/projects/${id}`)} />
    </>
  );
}

export function PartsList() {
  const workspace = useWorkspace();
  const parts = useSlice((s) => s.scene.parts);
  const materials = useSlice((s) => s.scene.materials);
  const selected = useSlice((s) => s.selected);
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
            selected={key === selected}
            onClick={() => workspace.select(key === selected ? null : key)}
            sx={{
              borderRadius: 1,
              opacity: part.visible ? 1 : 0.5,
              borderLeft: "3px solid",
              borderLeftColor: key === selected ? "primary.main" : "transparent",
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
