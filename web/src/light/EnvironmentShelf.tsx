/** The environments to choose from, as pictures; one click changes the light. */
import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import CircularProgress from "@mui/material/CircularProgress";
import IconButton from "@mui/material/IconButton";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { Trash2 } from "lucide-react";
import { useEffect, useMemo, useRef } from "react";
import { api, thumbnailUrl } from "../api/client";
import { changed, latestEnvironments, useEnvironments } from "../api/queries";
import type { EnvironmentEntry, Scene } from "../api/types";
import { FileInput } from "../controls/FileInput";
import { Strip } from "../controls/Strip";
import { dragOf } from "../store/carried";
import { useScene, useWorkspace } from "../store/context";
import { bring, useJobs } from "../store/jobs";
import { SHOT } from "../store/panes";
import { replace } from "../store/patch";
import type { Workspace } from "../store/workspace";
import { AddTile } from "./AddTile";
import { keepsBrightness } from "./brightness";

const [EVEN_PITCH, MAP_PITCH, ADD_PITCH] = [78, 148, 104];
const RING = {
  boxShadow: (t: { palette: { primary: { main: string } } }) => `0 0 0 2px ${t.palette.primary.main}`,
};

/** Whether the map is what is all around: neither graded light nor a sky stands in for it. */
const showsMap = (scene: Scene) => !scene.environment.graded && !scene.sky.enabled;

interface Item {
  tabIndex: 0 | -1;
}

const lit = (item: EnvironmentEntry) => [replace("/environment/map", item.map)];
/** How bright a map is, in words. */
const brightnessOf = ({ luminance }: EnvironmentEntry) =>
  luminance === null ? undefined : `${luminance.toPrecision(2)} cd/m² on average`;
const said = (item: EnvironmentEntry) => `Environment: ${item.name}`;

/** Bring a map in and light the scene with it. */
async function add(workspace: Workspace, file: File) {
  const onProblem = (text: string) => workspace.notify({ severity: "error", text });
  const id = await bring("environment", file, { onProblem });
  if (id === null) return;
  const item = (await latestEnvironments()).find((one) => one.id === id);
  for (const problem of item?.problems ?? [])
    workspace.notify({ severity: "warning", text: `${file.name}: ${problem}` });
  if (item) await light(workspace, item);
}

/** Light the scene by a map; the exposure keeps the picture as bright, unless that is switched off. */
export async function light(workspace: Workspace, item: EnvironmentEntry | null) {
  const luminance = keepsBrightness() ? (item ? item.luminance : 1) : null;
  const question = { map: item?.map ?? null, name: item?.name ?? "even white light", luminance };
  const key = await workspace.commitBy("light_by", SHOT, question);
  if (key === null)
    workspace.commit(
      item ? lit(item) : [replace("/environment/map", null)],
      item ? said(item) : "Environment",
    );
}

const NONE: EnvironmentEntry[] = [];

/** One's own maps first, the newest before all: what was just brought is in sight. */
const ownFirst = (a: EnvironmentEntry, b: EnvironmentEntry) =>
  Number(a.built_in) - Number(b.built_in) || (a.built_in ? a.id - b.id : b.id - a.id);

export function EnvironmentShelf() {
  const workspace = useWorkspace();
  const { data = NONE, error } = useEnvironments();
  const items = useMemo(() => data.toSorted(ownFirst), [data]);
  useEffect(() => {
    if (error) workspace.notify({ severity: "error", text: error.message });
  }, [workspace, error]);
  const input = useRef<HTMLInputElement>(null);
  return (
    <Box
      sx={{ height: "100%" }}
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        event.preventDefault();
        for (const file of event.dataTransfer.files) add(workspace, file);
      }}
    >
      <Strip
        label="Environments"
        count={items.length + 2}
        pitch={(index) => [EVEN_PITCH, ADD_PITCH][index] ?? MAP_PITCH}
        keyOf={(index) => ["even", "add"][index] ?? `${items[index - 2]!.id}`}
        render={(index, item) =>
          index === 0 ? (
            <EvenWhite item={item} />
          ) : index === 1 ? (
            <AddMap item={item} onClick={() => input.current?.click()} />
          ) : (
            <MapCard entry={items[index - 2]!} item={item} />
          )
        }
      />
      {/* Not on the strip: what is out of sight there is not drawn. */}
      <FileInput
        ref={input}
        label="HDR map file"
        accept=".hdr,.exr,.jpg,.jpeg,.png,.webp"
        onFile={(file) => add(workspace, file)}
      />
    </Box>
  );
}

function EvenWhite({ item }: { item: Item }) {
  const workspace = useWorkspace();
  const isChosen = useScene((s) => showsMap(s) && s.environment.map === null);
  return (
    <ButtonBase
      {...item}
      onClick={() => void light(workspace, null)}
      aria-label="Even white light"
      aria-pressed={isChosen}
      sx={{ flexDirection: "column", alignItems: "flex-start", borderRadius: 1, ...(isChosen && RING) }}
    >
      <Box sx={{ width: 68, height: 68, borderRadius: 1, bgcolor: "#f4f4f4" }} />
      <Typography variant="caption" noWrap sx={{ maxWidth: 68, px: 0.5 }}>
        Even white
      </Typography>
    </ButtonBase>
  );
}

function MapCard({ entry, item }: { entry: EnvironmentEntry; item: Item }) {
  const workspace = useWorkspace();
  const isChosen = useScene((s) => showsMap(s) && s.environment.map?.sha256 === entry.map.sha256);
  const remove = () => {
    if (!confirm(`Take “${entry.name}” off the shelf? Projects that use it keep it.`)) return;
    api
      .deleteEnvironment(entry.id)
      .then(changed.environments, (error: Error) =>
        workspace.notify({ severity: "error", text: error.message }),
      );
  };
  return (
    <Box sx={{ position: "relative", "&:hover .take-off, &:focus-within .take-off": { opacity: 1 } }}>
      <ButtonBase
        {...item}
        onClick={() => void light(workspace, entry)}
        title={brightnessOf(entry)}
        aria-label={`Environment ${entry.name}`}
        aria-pressed={isChosen}
        {...dragOf({ onPart: false, patch: () => lit(entry), label: () => said(entry) }, entry.name)}
        sx={{
          flexDirection: "column",
          alignItems: "flex-start",
          borderRadius: 1,
          outlineOffset: 2,
          ...(isChosen && RING),
        }}
      >
        <Box
          component="img"
          src={thumbnailUrl(entry)}
          alt=""
          sx={{ width: 136, height: 68, objectFit: "cover", borderRadius: 1, display: "block" }}
        />
        <Typography variant="caption" noWrap sx={{ maxWidth: 132, px: 0.5 }}>
          {entry.name}
        </Typography>
      </ButtonBase>
      {!entry.built_in && (
        <Tooltip title="Take it off the shelf">
          <IconButton
            size="small"
            className="take-off"
            tabIndex={item.tabIndex}
            aria-label={`Take ${entry.name} off the shelf`}
            onClick={remove}
            sx={{
              position: "absolute",
              top: 3,
              right: 3,
              p: 0.4,
              opacity: 0,
              bgcolor: "rgba(23,23,23,0.8)",
            }}
          >
            <Trash2 size={13} />
          </IconButton>
        </Tooltip>
      )}
    </Box>
  );
}

function AddMap({ item, onClick }: { item: Item; onClick: () => void }) {
  const running = useJobs().find((job) => job.kind === "environment" && job.state === "running");
  return (
    <AddTile item={item} word="Add a map" label="Add a map: .hdr, .exr, or a photograph" onClick={onClick}>
      {running && (
        <CircularProgress
          size={18}
          color="secondary"
          aria-label={running.stage}
          variant={running.share < 1 ? "determinate" : "indeterminate"}
          value={running.share * 100}
        />
      )}
    </AddTile>
  );
}
