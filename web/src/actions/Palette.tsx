/** All actions in one searchable place, with their keys. */
import Box from "@mui/material/Box";
import Dialog from "@mui/material/Dialog";
import InputBase from "@mui/material/InputBase";
import List from "@mui/material/List";
import ListItemButton from "@mui/material/ListItemButton";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { useSlice, useWorkspace } from "../store/context";
import { actions, keysOf } from "./registry";

/** Actions whose names hold every word, wherever. */
export function found(search: string): typeof actions {
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  return actions.filter((one) => words.every((word) => one.label.toLowerCase().includes(word)));
}

export function Palette() {
  const workspace = useWorkspace();
  const open = useSlice((s) => s.palette);
  const close = () => workspace.set({ palette: false });
  return (
    <Dialog
      open={open}
      onClose={close}
      fullWidth
      maxWidth="xs"
      // A dialog that fades away would swallow the keys that follow.
      transitionDuration={0}
      slotProps={{ paper: { sx: { alignSelf: "flex-start", mt: 9 } } }}
    >
      <Search onDone={close} />
    </Dialog>
  );
}

function Search({ onDone }: { onDone: () => void }) {
  const workspace = useWorkspace();
  const [search, setSearch] = useState("");
  const [at, setAt] = useState(0);
  const list = found(search);
  const chosen = Math.min(at, list.length - 1);
  const run = (index: number) => {
    const one = list[index];
    if (!one) return;
    onDone();
    one.run(workspace);
  };
  return (
    <>
      <InputBase
        autoFocus
        fullWidth
        placeholder="Find an action by its name"
        value={search}
        inputProps={{ "aria-label": "Find an action" }}
        onChange={(event) => {
          setSearch(event.target.value);
          setAt(0);
        }}
        onKeyDown={(event) => {
          if (event.key === "ArrowDown") setAt(Math.min(chosen + 1, list.length - 1));
          else if (event.key === "ArrowUp") setAt(Math.max(chosen - 1, 0));
          else if (event.key === "Enter") run(chosen);
          else return;
          event.preventDefault();
        }}
        sx={{ px: 2, py: 1.25, fontSize: 15, borderBottom: "1px solid", borderColor: "divider" }}
      />
      <List
        dense
        disablePadding
        aria-label="Actions"
        sx={{ maxHeight: 420, overflowY: "auto", scrollbarWidth: "thin" }}
      >
        {list.map((one, index) => (
          <ListItemButton
            key={one.id}
            selected={index === chosen}
            ref={(node) => {
              if (index === chosen) node?.scrollIntoView({ block: "nearest" });
            }}
            onClick={() => run(index)}
            sx={{ display: "flex", justifyContent: "space-between", gap: 2 }}
          >
            <Typography variant="body2">{one.label}</Typography>
            <Box
              component="kbd"
              sx={{ fontFamily: "inherit", fontSize: 11.5, color: "text.secondary", whiteSpace: "nowrap" }}
            >
              {keysOf(one)}
            </Box>
          </ListItemButton>
        ))}
        {list.length === 0 && (
          <Typography variant="body2" color="textSecondary" sx={{ p: 2 }}>
            No action has these words in its name.
          </Typography>
        )}
      </List>
    </>
  );
}
