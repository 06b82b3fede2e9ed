/** Files that a look uses: a table, a configuration with a display transform of one's own, the profile of a press. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import Select from "@mui/material/Select";
import Typography from "@mui/material/Typography";
import { useCallback, useMemo, useRef, useState } from "react";
import { changed, latestLooks } from "../api/queries";
import type { Look, Operation } from "../api/types";
import { FileInput } from "../controls/FileInput";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { bring } from "../store/jobs";
import { SHOT } from "../store/panes";
import { replace } from "../store/patch";
import { useAnswer } from "../store/useAnswer";

interface Props {
  label: string;
  none: string;
  accept: string;
  name: string | null;
  /** The patch that takes what was brought in; null where it is something else. */
  take: (look: Look) => Operation[] | null;
  clear: Operation[];
}

function LookFile({ label, none, accept, name, take, clear }: Props) {
  const workspace = useWorkspace();
  const input = useRef<HTMLInputElement>(null);
  const [busy, setBusy] = useState(false);
  const add = async (file: File) => {
    setBusy(true);
    const onProblem = (text: string) => workspace.notify({ severity: "error", text });
    const id = await bring("look", file, { onProblem });
    const found = id === null ? undefined : (await latestLooks()).find(({ key }) => key === `own-${id}`);
    const patch = found ? take(found.look) : null;
    if (patch) workspace.commit(patch, `${label}: ${file.name}`);
    void changed.looks();
    setBusy(false);
  };
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 0.5, my: 0.5 }}>
      <Typography variant="body2" color="textSecondary" noWrap sx={{ flex: 1 }}>
        {name ?? none}
      </Typography>
      {name && (
        <Button
          size="small"
          color="inherit"
          onClick={() => workspace.commit(clear, `No ${label.toLowerCase()}`)}
        >
          Leave out
        </Button>
      )}
      <Button size="small" disabled={busy} onClick={() => input.current?.click()}>
        {busy ? "Reading…" : name ? "Another" : label}
      </Button>
      <FileInput ref={input} label={`${label} file`} accept={accept} onFile={add} />
    </Box>
  );
}

export function TableField() {
  const name = useScene((s) => s.look.table.file?.name ?? null);
  return (
    <LookFile
      label="Table"
      none="No table yet (.cube)"
      accept=".cube"
      name={name}
      take={(look) => (look.table.file ? [replace("/look/table/file", look.table.file)] : null)}
      clear={[replace("/look/table/file", null)]}
    />
  );
}

export function PressProfile() {
  const name = useScene((s) => s.look.press_profile?.name ?? null);
  return (
    <LookFile
      label="Profile"
      none="No profile of a press yet (.icc)"
      accept=".icc,.icm"
      name={name}
      take={(look) => (look.press_profile ? [replace("/look/press_profile", look.press_profile)] : null)}
      clear={[replace("/look/press_profile", null)]}
    />
  );
}

export function OwnTransform() {
  const own = useScene((s) => s.look.own_transform ?? null);
  return (
    <>
      <LookFile
        label="Configuration"
        none="The built-in transforms"
        accept=".ocio,.ocioz"
        name={own?.file.name ?? null}
        take={(look) => (look.own_transform ? [replace("/look/own_transform", look.own_transform)] : null)}
        clear={[replace("/look/own_transform", null)]}
      />
      {own && <TransformNames own={own} />}
    </>
  );
}

interface Names {
  displays: Record<string, string[]> | null;
  looks: string[];
}

/** What the configuration has: one line for display and view, one for its looks. */
function TransformNames({ own }: { own: NonNullable<Look["own_transform"]> }) {
  const workspace = useWorkspace();
  const digest = own.file.sha256;
  // Asked anew once the picture shows a document with another file.
  const revision = useSlice((s) => s.panes[SHOT]?.frame?.revision ?? 0);
  const shown = useMemo(() => ({ digest, revision }), [digest, revision]);
  const ask = useCallback(() => workspace.askHost<Names>("transform_names", SHOT), [workspace]);
  const names = useAnswer(shown, ask);
  const set = (changes: Partial<typeof own>, label: string) =>
    workspace.commit([replace("/look/own_transform", { ...own, ...changes })], label);
  const views = Object.entries(names?.displays ?? { [own.display]: [own.view] }).flatMap(([display, found]) =>
    found.map((view) => ({ display, view, value: `${display}\n${view}` })),
  );
  return (
    <>
      <Select
        fullWidth
        size="small"
        value={`${own.display}\n${own.view}`}
        inputProps={{ "aria-label": "Display and view" }}
        onChange={({ target }) => {
          const found = views.find(({ value }) => value === target.value);
          if (found) set({ display: found.display, view: found.view }, `View: ${found.view}`);
        }}
        sx={{ fontSize: 12.5, my: 0.5 }}
      >
        {views.map(({ display, view, value }) => (
          <MenuItem key={value} dense value={value}>
            {`${display}: ${view}`}
          </MenuItem>
        ))}
      </Select>
      {(names?.looks.length ?? 0) > 0 && (
        <Select
          fullWidth
          displayEmpty
          size="small"
          value={own.look}
          inputProps={{ "aria-label": "Look of the configuration" }}
          onChange={({ target }) => set({ look: target.value }, `Look: ${target.value || "none"}`)}
          sx={{ fontSize: 12.5, mb: 0.5 }}
        >
          <MenuItem dense value="">
            No look
          </MenuItem>
          {names!.looks.map((look) => (
            <MenuItem key={look} dense value={look}>
              {look}
            </MenuItem>
          ))}
        </Select>
      )}
    </>
  );
}
