/** A picture that light is made with: an image or a map of the library, or a file of one's own. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Divider from "@mui/material/Divider";
import ListItemText from "@mui/material/ListItemText";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import { useRef, useState } from "react";
import { imageUrl, thumbnailUrl } from "../api/client";
import { latestEnvironments, latestImages, useEnvironments, useImages } from "../api/queries";
import type { FileRef } from "../api/types";
import { FileInput } from "../controls/FileInput";
import { useWorkspace } from "../store/context";
import { bring } from "../store/jobs";

interface Entry {
  id: number;
  name: string;
  file: FileRef;
  picture: string;
}

/** Where the pictures come from: the entries that are there, and how another is brought. */
interface Source {
  entries: readonly Entry[];
  kind: "image" | "environment";
  accept: string;
  latest: () => Promise<{ id: number; name: string; file: FileRef }[]>;
}

function useImageSource(): Source {
  const { data = [] } = useImages();
  return {
    entries: data.map((image) => ({ ...image, picture: imageUrl(image) })),
    kind: "image",
    accept: ".png,.jpg,.jpeg,.webp,.tif,.tiff,.svg",
    latest: latestImages,
  };
}

function useMapSource(): Source {
  const { data = [] } = useEnvironments();
  return {
    entries: data.map((map) => ({ id: map.id, name: map.name, file: map.map, picture: thumbnailUrl(map) })),
    kind: "environment",
    accept: ".hdr,.exr,.jpg,.jpeg,.png,.webp",
    latest: async () => (await latestEnvironments()).map(({ id, name, map }) => ({ id, name, file: map })),
  };
}

export const ImageField = (props: Props) => <FileField {...props} source={useImageSource()} />;
export const MapField = (props: Props) => <FileField {...props} source={useMapSource()} />;

interface Props {
  label: string;
  none: string;
  file: FileRef | null;
  onFile: (file: FileRef | null, name: string) => void;
}

function FileField({ label, none, file, onFile, source }: Props & { source: Source }) {
  const workspace = useWorkspace();
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
    const id = await bring(source.kind, brought, { onProblem });
    const found = id === null ? undefined : (await source.latest()).find((one) => one.id === id);
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
        disabled={busy}
        onClick={(event) => setMenu(event.currentTarget)}
        sx={{ justifyContent: "space-between", borderColor: "divider", textTransform: "none" }}
      >
        <span>{label} </span>
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
        {source.entries.map((entry) => (
          <MenuItem key={entry.id} sx={{ gap: 1 }} onClick={() => choose(entry.file, entry.name)}>
            <Box
              component="img"
              src={entry.picture}
              alt=""
              sx={{ width: 32, height: 24, objectFit: "cover" }}
            />
            <ListItemText primary={entry.name} />
          </MenuItem>
        ))}
        <Divider />
        <MenuItem onClick={() => input.current?.click()}>Add one</MenuItem>
      </Menu>
      <FileInput ref={input} label={`${label} file`} accept={source.accept} onFile={add} />
    </Box>
  );
}
