/** One of the images that the asset's materials use, or none. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import Typography from "@mui/material/Typography";
import { useEffect, useMemo, useState } from "react";
import type { TextureUse } from "../api/types";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { mapKey } from "../store/session";

/** The images that materials of the document use, each once, as the first of them lays it out. */
function useImages(): TextureUse[] {
  const materials = useScene((s) => s.materials);
  return useMemo(() => {
    const found = new Map<number, TextureUse>();
    for (const material of Object.values(materials))
      for (const [name, value] of Object.entries(material)) {
        const use = name.endsWith("_texture") ? (value as TextureUse | null) : null;
        if (use && !use.file && !found.has(use.texture)) found.set(use.texture, use);
      }
    return [...found.values()].sort((a, b) => a.texture - b.texture);
  }, [materials]);
}

interface Props {
  label: string;
  chosen: TextureUse | null;
  onChoose: (image: TextureUse | null) => void;
}

export function ImageChoice({ label, chosen, onChoose }: Props) {
  const images = useImages();
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const choose = (image: TextureUse | null) => {
    setMenu(null);
    onChoose(image);
  };
  return (
    <Box sx={{ display: "flex", alignItems: "center", minHeight: 30, gap: 1 }}>
      <Typography variant="body2" color="textSecondary" sx={{ flex: 1 }}>
        {label}
      </Typography>
      {chosen && <Thumbnail texture={chosen.texture} />}
      <Button size="small" aria-haspopup="menu" onClick={(event) => setMenu(event.currentTarget)}>
        {chosen ? `Image ${chosen.texture + 1}` : "No image"}
      </Button>
      <Menu anchorEl={menu} open={menu !== null} onClose={() => setMenu(null)}>
        <MenuItem dense selected={chosen === null} onClick={() => choose(null)}>
          No image
        </MenuItem>
        {images.map((image) => (
          <MenuItem
            dense
            key={image.texture}
            selected={chosen?.texture === image.texture}
            onClick={() => choose(image)}
            sx={{ gap: 1.5 }}
          >
            <Thumbnail texture={image.texture} />
            Image {image.texture + 1}
          </MenuItem>
        ))}
        {images.length === 0 && <MenuItem disabled>The asset's materials have no images</MenuItem>}
      </Menu>
    </Box>
  );
}

function Thumbnail({ texture }: { texture: number }) {
  const workspace = useWorkspace();
  const asset = useScene((s) => s.asset?.file.sha256 ?? "");
  const isReady = useSlice((s) => s.opened !== null);
  const picture = useSlice((s) => s.maps[mapKey({ asset, texture, channel: 0 })]);
  useEffect(() => {
    if (isReady) workspace.wantMap({ asset, texture, channel: 0 });
  }, [workspace, asset, texture, isReady]);
  return picture ? (
    <Box
      component="img"
      src={picture}
      alt=""
      sx={{ width: 28, height: 28, objectFit: "cover", borderRadius: 0.5 }}
    />
  ) : (
    <Box sx={{ width: 28, height: 28, borderRadius: 0.5, bgcolor: "#3a3a3a" }} />
  );
}
