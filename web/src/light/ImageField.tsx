/** A picture that light is made with: of the library, or a file of one's own. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Divider from "@mui/material/Divider";
import ListItemText from "@mui/material/ListItemText";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import { useRef, useState } from "react";
import { imageUrl } from "../api/client";
import { latestImages, useImages } from "../api/queries";
import type { FileRef } from "../api/types";
import { FileInput } from "../controls/FileInput";
import { useWorkspace } from "../store/context";
import { bring } from "../store/jobs";

interface Props {
  label: string;
  none: string;
  file: FileRef | null;
  onFile: (file: FileRef | null, name: string) => void;
}

export function ImageField({ label, none, file, onFile }: Props) {
  const workspace = useWorkspace();
  const { data: images = [] } = useImages();
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const [busy, setBusy] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const choose = (next: FileRef | null, name: string) => {
    setMenu(null);
    onFile(next, name);
  };
  const add = async (brought: File) => {
    setMenu(null);
    setBusy(true);
    const onProblem = (text: string) => workspace.notify({ severity: "error", text });
    const id = await bring("image", brought, { onProblem });
    const found = id === null ? undefined : (await latestImages()).find((one) => one.id === id);
    if (found) onFile(found.file, found.name);
    setBusy(false);
  };
  return (
    <Box sx={{ my: 0.75 }}>
      <Button
        fullWidth
        size="small"
        color="inherit"
        variant="outlined"
        aria-haspopup="menu"
        aria-label={label}
        disabled={busy}
        onClick={(event) => setMenu(event.currentTarget)}
        sx={{ justifyContent: "space-between", borderColor: "divider", textTransform: "none" }}
      >
        <span>{label}</span>
        <Box component="span" sx={{ color: "text.secondary" }}>
          {busy ? "Reading…" : (file?.name ?? none)}
        </Box>
      </Button>
      <Menu
        anchorEl={menu}
        open={menu !== null}
        onClose={() => setMenu(null)}
        slotProps={{ list: { dense: true } }}
      >
        <MenuItem selected={file === null} onClick={() => choose(null, none)}>
          {none}
        </MenuItem>
        {images.map((image) => (
          <MenuItem key={image.id} sx={{ gap: 1 }} onClick={() => choose(image.file, image.name)}>
            <Box
              component="img"
              src={imageUrl(image)}
              alt=""
              sx={{ width: 32, height: 24, objectFit: "cover" }}
            />
            <ListItemText primary={image.name} />
          </MenuItem>
        ))}
        <Divider />
        <MenuItem onClick={() => input.current?.click()}>Add an image</MenuItem>
      </Menu>
      <FileInput
        ref={input}
        label={`${label} file`}
        accept=".png,.jpg,.jpeg,.webp,.tif,.tiff,.svg"
        onFile={add}
      />
    </Box>
  );
}
