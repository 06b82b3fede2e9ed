/** An image of one's own, or of the library: for an input, for a decal, or the picture of a lit ball. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Divider from "@mui/material/Divider";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import Typography from "@mui/material/Typography";
import { useRef, useState } from "react";
import { api, imageUrl } from "../api/client";
import { changed, latestImages, useImages } from "../api/queries";
import type { FileRef, ImageEntry } from "../api/types";
import { FileInput } from "../controls/FileInput";
import { useWorkspace } from "../store/context";
import { bring } from "../store/jobs";

const KINDS = ".png,.jpg,.jpeg,.webp,.tif,.tiff,.exr,.hdr,.svg,.tga,.bmp";
/** Behind what is clear in an image. */
const GROUND = "repeating-conic-gradient(#4a4a4a 0 25%, #3a3a3a 0 50%) 0 0 / 10px 10px";

interface Props {
  label: string;
  chosen: FileRef | null;
  /** Pictures of lit balls are offered, and not the others of the library. */
  isBall?: boolean;
  onChoose: (file: FileRef) => void;
}

export function FileChoice({ label, chosen, isBall = false, onChoose }: Props) {
  const workspace = useWorkspace();
  const { data: items = [] } = useImages();
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const [busy, setBusy] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const known = items.find(({ file }) => file.sha256 === chosen?.sha256);
  const offered = items.filter((item) => !item.built_in || item.is_ball === isBall);
  const take = (item: ImageEntry) => {
    setMenu(null);
    onChoose(item.file);
  };
  const add = async (file: File) => {
    setMenu(null);
    setBusy(true);
    const number = await bring("image", file, {
      onProblem: (text) => workspace.notify({ severity: "error", text }),
    });
    const found = number === null ? undefined : (await latestImages()).find((item) => item.id === number);
    for (const text of found?.problems ?? []) workspace.notify({ severity: "info", text });
    if (found) take(found);
    setBusy(false);
  };
  const remove = async (item: ImageEntry) => {
    setMenu(null);
    await api
      .deleteImage(item.id)
      .catch((error) => workspace.notify({ severity: "error", text: `${error}` }));
    await changed.images();
  };
  return (
    <Box sx={{ display: "flex", alignItems: "center", minHeight: 34, gap: 1 }}>
      <Typography variant="body2" color="textSecondary" sx={{ flex: 1 }}>
        {label}
      </Typography>
      {known && <Thumbnail item={known} side={30} />}
      <Button
        size="small"
        aria-haspopup="menu"
        aria-label={label}
        disabled={busy}
        onClick={(event) => setMenu(event.currentTarget)}
        sx={{ minWidth: 0, maxWidth: 150 }}
      >
        <Typography variant="body2" noWrap>
          {busy ? "Reading…" : (known?.name ?? chosen?.name ?? "Choose an image")}
        </Typography>
      </Button>
      <Menu anchorEl={menu} open={menu !== null} onClose={() => setMenu(null)}>
        {offered.map((item) => (
          <MenuItem
            dense
            key={item.id}
            selected={item === known}
            onClick={() => take(item)}
            sx={{ gap: 1.25 }}
          >
            <Thumbnail item={item} side={40} />
            {item.name}
          </MenuItem>
        ))}
        {offered.length > 0 && <Divider />}
        <MenuItem dense onClick={() => input.current?.click()}>
          Bring an image…
        </MenuItem>
        {known && !known.built_in && (
          <MenuItem dense onClick={() => remove(known)}>
            Take {known.name} off the shelf
          </MenuItem>
        )}
      </Menu>
      <FileInput ref={input} label={`File for ${label}`} accept={KINDS} onFile={add} />
    </Box>
  );
}

function Thumbnail({ item, side }: { item: ImageEntry; side: number }) {
  return (
    <Box
      component="img"
      src={imageUrl(item)}
      alt=""
      sx={{
        width: side,
        height: side,
        objectFit: "contain",
        borderRadius: 0.5,
        background: GROUND,
        flexShrink: 0,
      }}
    />
  );
}
