/** Keeps a material of the project on the person's own shelf, with words to find it by, or saves it as a file. */
import Button from "@mui/material/Button";
import IconButton from "@mui/material/IconButton";
import Popover from "@mui/material/Popover";
import TextField from "@mui/material/TextField";
import Tooltip from "@mui/material/Tooltip";
import { BookmarkPlus, Download } from "lucide-react";
import { type FormEvent, useState } from "react";
import { api, leftOut, saveMaterial } from "../api/client";
import { changed } from "../api/queries";
import { useSlice, useWorkspace } from "../store/context";

const LONGEST = 200;

export function KeepSwatch({ material, name }: { material: string; name: string }) {
  const workspace = useWorkspace();
  const project = useSlice((s) => s.project);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [tags, setTags] = useState("");
  const keep = async (event: FormEvent) => {
    event.preventDefault();
    setAnchor(null);
    try {
      await api.keepSwatch(project, material, tags);
      workspace.notify({ severity: "info", text: `${name} is kept in the library, among your own.` });
      await changed.swatches();
    } catch (error) {
      workspace.notify({ severity: "error", text: (error as Error).message });
    }
  };
  const save = () =>
    saveMaterial(project, material)
      .then((lost) => {
        const text = leftOut(lost);
        if (text) workspace.notify({ severity: "info", text });
      })
      .catch((error: Error) => workspace.notify({ severity: "error", text: error.message }));
  return (
    <>
      <Tooltip title="Save as MaterialX">
        <IconButton size="small" aria-label={`Save ${name} as MaterialX`} onClick={save}>
          <Download size={15} />
        </IconButton>
      </Tooltip>
      <Tooltip title="Keep in the library">
        <IconButton
          size="small"
          aria-label={`Keep ${name} in the library`}
          aria-haspopup="dialog"
          onClick={(event) => setAnchor(event.currentTarget)}
        >
          <BookmarkPlus size={15} />
        </IconButton>
      </Tooltip>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: "bottom", horizontal: "left" }}
        slotProps={{ paper: { sx: { p: 1.5, width: 260 }, "aria-label": "Keep in the library" } }}
      >
        <form onSubmit={keep}>
          <TextField
            autoFocus
            fullWidth
            size="small"
            label="Words to find it by"
            value={tags}
            onChange={(event) => setTags(event.target.value)}
            helperText="Images of the asset stay with the project."
            slotProps={{ htmlInput: { maxLength: LONGEST } }}
          />
          <Button type="submit" size="small" sx={{ mt: 0.5 }}>
            Keep {name}
          </Button>
        </form>
      </Popover>
    </>
  );
}
