/** How fine the selected parts are: triangles now and foreseen, and the image that displaces them. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import Typography from "@mui/material/Typography";
import { useCallback, useEffect, useMemo, useState } from "react";
import type { Density as Counts, Operation, TextureUse } from "../api/types";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { pointer, replace } from "../store/patch";
import { mapKey } from "../store/session";
import { useAnswer } from "./useAnswer";

export function Density({ parts }: { parts: string[] }) {
  return (
    <>
      <Image parts={parts} />
      <Triangles parts={parts} />
    </>
  );
}

/** "14 868", "952 thousand", "1.25 million" */
export function amount(count: number): string {
  if (count < 500_000) return count.toLocaleString("en").replaceAll(",", " ");
  return count < 1e6 ? `${Math.round(count / 1e3)} thousand` : `${(count / 1e6).toPrecision(3)} million`;
}

const bytes = (count: number): string =>
  count < 1e9 ? `${Math.ceil(count / 1e6)} MB` : `${(count / 1e9).toFixed(1)} GB`;

/** What a count says: nothing of the print while it is as the proof. */
export function countsOf({ brought, proof, print, bytes: memory }: Counts): string {
  const grown = proof === brought ? "" : `, ${amount(proof)} in the proof`;
  const last = print === proof ? "" : `, ${amount(print)} in the print`;
  const noun = brought === 1 ? "triangle" : "triangles";
  return `${amount(brought)} ${noun}${grown}${last} · ${bytes(memory)}`;
}

function Triangles({ parts }: { parts: string[] }) {
  const workspace = useWorkspace();
  const all = useScene((s) => s.parts);
  const host = useSlice((s) => s.host);
  const stamp = parts.join(" ");
  // What the answer depends on: how fine the parts are to be, and that the host is there to say it.
  const asked = useMemo(() => ({ keys: stamp.split(" "), all, host }), [stamp, all, host]);
  const ask = useCallback(({ keys }: typeof asked) => workspace.density(keys), [workspace]);
  const counts = useAnswer(asked, ask);
  if (!counts || counts.brought === 0) return null;
  return (
    <Typography variant="caption" color="textSecondary" component="p" data-testid="triangles">
      {countsOf(counts)}
    </Typography>
  );
}

/** The images that materials of the document use, each once, as the first of them lays it out. */
function useImages(): TextureUse[] {
  const materials = useScene((s) => s.materials);
  return useMemo(() => {
    const found = new Map<number, TextureUse>();
    for (const material of Object.values(materials))
      for (const [name, value] of Object.entries(material)) {
        const use = name.endsWith("_texture") ? (value as TextureUse | null) : null;
        if (use && !found.has(use.texture)) found.set(use.texture, use);
      }
    return [...found.values()].sort((a, b) => a.texture - b.texture);
  }, [materials]);
}

function Image({ parts }: { parts: string[] }) {
  const workspace = useWorkspace();
  const images = useImages();
  const chosen = useScene((s) => s.parts[parts[0]!]?.displacement_texture ?? null);
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const use = (image: TextureUse | null) => {
    setMenu(null);
    const patch: Operation[] = parts.map((key) =>
      replace(pointer("parts", key, "displacement_texture"), image),
    );
    workspace.commit(patch, image ? "Image that displaces" : "No displacement");
  };
  return (
    <Box sx={{ display: "flex", alignItems: "center", minHeight: 30, gap: 1 }}>
      <Typography variant="body2" color="textSecondary" sx={{ flex: 1 }}>
        Displaced by
      </Typography>
      {chosen && <Thumbnail texture={chosen.texture} />}
      <Button size="small" aria-haspopup="menu" onClick={(event) => setMenu(event.currentTarget)}>
        {chosen ? `Image ${chosen.texture + 1}` : "No image"}
      </Button>
      <Menu anchorEl={menu} open={menu !== null} onClose={() => setMenu(null)}>
        <MenuItem dense selected={chosen === null} onClick={() => use(null)}>
          No image
        </MenuItem>
        {images.map((image) => (
          <MenuItem
            dense
            key={image.texture}
            selected={chosen?.texture === image.texture}
            onClick={() => use(image)}
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
