/** Measured distributions of light: one click gives the chosen light, and those edited with it, another. */
import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import Typography from "@mui/material/Typography";
import { useRef } from "react";
import { changed, useProfiles } from "../api/queries";
import type { ProfileEntry } from "../api/types";
import { FileInput } from "../controls/FileInput";
import { Strip } from "../controls/Strip";
import { useSlice, useWorkspace } from "../store/context";
import { bring } from "../store/jobs";
import { pointer, replace } from "../store/patch";
import { AddTile } from "./AddTile";
import { Curve, lumens } from "./Curve";

const NONE: ProfileEntry[] = [];
const [PITCH, SIZE] = [116, 68];

export function ProfileShelf() {
  const workspace = useWorkspace();
  const { data: profiles = NONE } = useProfiles();
  const input = useRef<HTMLInputElement>(null);
  const worn = useSlice((s) => {
    const light = s.light === null ? undefined : s.scene.lights[s.light];
    return light && "profile" in light ? (light.profile?.sha256 ?? null) : null;
  });
  const say = (text: string) => workspace.notify({ severity: "info", text });
  const choose = ({ name, profile }: ProfileEntry) => {
    const { light, besides, scene } = workspace.getState();
    const takers = [light, ...besides].filter(
      (key): key is string => key !== null && "profile" in (scene.lights[key] ?? {}),
    );
    if (takers.length === 0) {
      say("Choose a point or a spot first: they shine by a measured profile.");
      return;
    }
    workspace.commit(
      takers.map((key) => replace(pointer("lights", key, "profile"), profile)),
      `Profile: ${name}`,
    );
  };
  const add = async (file: File) => {
    await bring("profile", file, {
      onProblem: (text) => workspace.notify({ severity: "error", text }),
    });
    await changed.profiles();
  };
  return (
    <Box sx={{ height: "100%" }}>
      <Strip
        label="Profiles"
        count={profiles.length + 1}
        pitch={PITCH}
        keyOf={(index) => `${profiles[index]?.id ?? "add"}`}
        render={(index, item) => {
          const entry = profiles[index];
          if (!entry)
            return (
              <AddTile
                item={item}
                word="Add an .ies file"
                label="Add an IES profile"
                onClick={() => input.current?.click()}
              />
            );
          const isWorn = worn === entry.profile.sha256;
          return (
            <ButtonBase
              {...item}
              onClick={() => choose(entry)}
              title={lumens(entry.lumens)}
              aria-label={`Profile ${entry.name}`}
              aria-pressed={isWorn}
              sx={{
                flexDirection: "column",
                alignItems: "flex-start",
                borderRadius: 1,
                color: isWorn ? "secondary.main" : "text.primary",
              }}
            >
              <Curve points={entry.curve} size={SIZE} />
              <Typography variant="caption" noWrap sx={{ maxWidth: PITCH - 8 }}>
                {entry.name}
              </Typography>
            </ButtonBase>
          );
        }}
      />
      <FileInput ref={input} label="IES profile file" accept=".ies" onFile={(file) => void add(file)} />
    </Box>
  );
}
