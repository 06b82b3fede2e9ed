/** The measured distribution of a light: an IES profile of the library, or a file of one's own. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Divider from "@mui/material/Divider";
import ListItemText from "@mui/material/ListItemText";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import Typography from "@mui/material/Typography";
import { useEffect, useRef, useState } from "react";
import { api } from "../api/client";
import { changed, latestProfiles, useProfiles } from "../api/queries";
import type { Light, ProfileEntry } from "../api/types";
import { FileInput } from "../controls/FileInput";
import { useWorkspace } from "../store/context";
import { bring } from "../store/jobs";
import { pointer, replace } from "../store/patch";
import { Curve, lumens, ROUND } from "./Curve";
import { PolarDiagram } from "./PolarDiagram";
import { useProfileSolid } from "./useProfileSolid";

const EVEN = "Even to all sides";

interface Props {
  id: string;
  light: Extract<Light, { profile: unknown }>;
}

export function ProfileField({ id, light }: Props) {
  const workspace = useWorkspace();
  const solid = useProfileSolid(id);
  const { data: items = [], error } = useProfiles();
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const [busy, setBusy] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const chosen = items.find(
    ({ profile }) => profile.sha256 === light.profile?.sha256 && profile.name === light.profile.name,
  );
  const fail = (error: Error) => workspace.notify({ severity: "error", text: error.message });

  useEffect(() => {
    if (error) workspace.notify({ severity: "error", text: error.message });
  }, [workspace, error]);

  const choose = (item: ProfileEntry | null) => {
    setMenu(null);
    workspace.commit(
      [replace(pointer("lights", id, "profile"), item?.profile ?? null)],
      `Profile: ${item?.name ?? EVEN}`,
    );
  };
  const remove = (item: ProfileEntry) => {
    if (!confirm(`Take “${item.name}” off the shelf? Lights that have it keep it.`)) return;
    api.deleteProfile(item.id).then(changed.profiles, fail);
  };
  const add = async (file: File) => {
    setMenu(null);
    setBusy(true);
    const profile = await bring("profile", file, { onProblem: (text) => fail(new Error(text)) });
    const found = profile === null ? undefined : (await latestProfiles()).find((one) => one.id === profile);
    if (found) choose(found);
    setBusy(false);
  };
  const asMeasured = (item: ProfileEntry) =>
    workspace.commit(
      [
        replace(pointer("lights", id, "unit"), "lm"),
        replace(pointer("lights", id, "amount"), Math.round(item.lumens)),
      ],
      "Amount as measured",
    );

  return (
    <Box sx={{ mb: 1.5 }}>
      <Typography variant="body2" color="textSecondary" sx={{ mb: 0.5 }}>
        Profile
      </Typography>
      <Button
        fullWidth
        color="inherit"
        variant="outlined"
        aria-haspopup="menu"
        aria-label="Profile"
        disabled={busy}
        onClick={(event) => setMenu(event.currentTarget)}
        sx={{
          justifyContent: "flex-start",
          gap: 1.25,
          p: 0.5,
          borderColor: "divider",
          textTransform: "none",
        }}
      >
        <Curve points={chosen?.curve ?? ROUND} />
        <Typography variant="body2" noWrap>
          {busy ? "Reading…" : (chosen?.name ?? light.profile?.name ?? EVEN)}
        </Typography>
      </Button>
      {solid?.planes && <PolarDiagram solid={solid} />}
      {chosen && !(light.unit === "lm" && light.amount === Math.round(chosen.lumens)) && (
        <Button size="small" color="secondary" onClick={() => asMeasured(chosen)} sx={{ mt: 0.5 }}>
          {`Take ${lumens(chosen.lumens)}, as measured`}
        </Button>
      )}
      {chosen && !chosen.built_in && (
        <Button size="small" color="inherit" onClick={() => remove(chosen)} sx={{ mt: 0.5 }}>
          Take it off the shelf
        </Button>
      )}
      <Menu anchorEl={menu} open={menu !== null} onClose={() => setMenu(null)}>
        <MenuItem selected={light.profile === null} onClick={() => choose(null)} sx={{ gap: 1.25 }}>
          <Curve points={ROUND} />
          <ListItemText primary={EVEN} />
        </MenuItem>
        {items.map((item) => (
          <MenuItem key={item.id} selected={item === chosen} onClick={() => choose(item)} sx={{ gap: 1.25 }}>
            <Curve points={item.curve} />
            <ListItemText primary={item.name} secondary={lumens(item.lumens)} />
          </MenuItem>
        ))}
        <Divider />
        <MenuItem onClick={() => input.current?.click()}>Add an .ies file</MenuItem>
      </Menu>
      <FileInput ref={input} label="IES file" accept=".ies" onFile={add} />
    </Box>
  );
}
