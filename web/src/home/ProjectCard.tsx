/** A project by its newest picture; a lamp stands for one that nobody has looked at yet. */
import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import Divider from "@mui/material/Divider";
import IconButton from "@mui/material/IconButton";
import InputBase from "@mui/material/InputBase";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { Ellipsis, Lamp } from "lucide-react";
import { type KeyboardEvent, useRef, useState } from "react";
import { packageUrl } from "../api/client";
import type { ProjectSummary } from "../api/types";

const WHEN = new Intl.DateTimeFormat(undefined, { dateStyle: "medium", timeStyle: "short" });

interface CardProps {
  project: ProjectSummary;
  onOpen: () => void;
  onRename: (name: string) => void;
  onCopy: () => void;
  onExport: () => void;
  onStart: () => void;
  onArchive: (archived: boolean) => void;
  onRemove: () => void;
}

export function ProjectCard({
  project,
  onOpen,
  onRename,
  onCopy,
  onExport,
  onStart,
  onArchive,
  onRemove,
}: CardProps) {
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const [renaming, setRenaming] = useState(false);
  // Chosen while the menu closes: it gives the focus back, which would end the renaming that has just begun.
  const chosen = useRef<(() => void) | null>(null);
  const doing = (run: () => void) => () => {
    chosen.current = run;
    setMenu(null);
  };
  const onExited = () => {
    chosen.current?.();
    chosen.current = null;
  };
  return (
    <Box component="li" sx={{ position: "relative", opacity: project.archived ? 0.6 : 1 }}>
      <ButtonBase
        aria-label={`Open ${project.name}`}
        onClick={onOpen}
        sx={{
          width: "100%",
          display: "block",
          borderRadius: 1.5,
          overflow: "hidden",
          bgcolor: "background.paper",
          pb: 7,
          "&:hover, &.Mui-focusVisible": { boxShadow: (t) => `0 0 0 2px ${t.palette.primary.main}` },
        }}
      >
        <Box sx={{ aspectRatio: "8 / 5", display: "grid", placeItems: "center", bgcolor: "#2a2a2a" }}>
          {project.cover ? (
            <Box
              component="img"
              src={project.cover}
              alt=""
              sx={{ width: "100%", height: "100%", objectFit: "cover", display: "block" }}
            />
          ) : (
            <Lamp size={34} strokeWidth={1.2} color="#6f6a63" />
          )}
        </Box>
      </ButtonBase>
      <Box
        sx={{
          position: "absolute",
          left: 12,
          right: 46,
          bottom: 7,
          pointerEvents: renaming ? "auto" : "none",
        }}
      >
        {renaming ? (
          <NameField
            name={project.name}
            onEnd={(name) => {
              setRenaming(false);
              if (name !== null && name !== project.name) onRename(name);
            }}
          />
        ) : (
          <Typography noWrap sx={{ fontWeight: 600 }}>
            {project.name}
          </Typography>
        )}
        <Typography variant="caption" color="textSecondary">
          {project.archived ? "Put away · " : ""}
          {WHEN.format(new Date(project.updated))}
        </Typography>
      </Box>
      <Tooltip title="More">
        <IconButton
          aria-label={`More for ${project.name}`}
          aria-haspopup="menu"
          onClick={(event) => setMenu(event.currentTarget)}
          sx={{ position: "absolute", right: 6, bottom: 10 }}
        >
          <Ellipsis size={16} />
        </IconButton>
      </Tooltip>
      <Menu
        anchorEl={menu}
        open={menu !== null}
        onClose={() => setMenu(null)}
        slotProps={{ transition: { onExited } }}
      >
        <MenuItem onClick={doing(() => setRenaming(true))}>Rename</MenuItem>
        <MenuItem onClick={doing(onCopy)}>Copy</MenuItem>
        <MenuItem onClick={doing(onStart)}>Begin new projects like this</MenuItem>
        <Divider />
        <MenuItem component="a" href={packageUrl(project, true)} download onClick={() => setMenu(null)}>
          Save as a package
        </MenuItem>
        <MenuItem component="a" href={packageUrl(project, false)} download onClick={() => setMenu(null)}>
          Save without its history
        </MenuItem>
        <MenuItem onClick={doing(onExport)}>Export as GLB</MenuItem>
        <Divider />
        <MenuItem onClick={doing(() => onArchive(!project.archived))}>
          {project.archived ? "Take back" : "Put away"}
        </MenuItem>
        <Divider />
        <MenuItem onClick={doing(onRemove)}>Remove</MenuItem>
      </Menu>
    </Box>
  );
}

/** The name while it is being changed: Enter or leaving keeps it, Escape does not. */
function NameField({ name, onEnd }: { name: string; onEnd: (name: string | null) => void }) {
  const [text, setText] = useState(name);
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.key === "Enter") onEnd(text);
    if (event.key === "Escape") onEnd(null);
  };
  return (
    <InputBase
      fullWidth
      autoFocus
      value={text}
      onChange={(event) => setText(event.target.value)}
      onFocus={(event) => event.target.select()}
      onBlur={() => onEnd(text)}
      onKeyDown={onKeyDown}
      inputProps={{ "aria-label": "Project name", maxLength: 200 }}
      sx={{ fontWeight: 600, "& input": { p: 0, px: 0.5, borderRadius: 0.5, bgcolor: "#2a2a2a" } }}
    />
  );
}
