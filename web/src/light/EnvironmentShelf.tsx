/** The environments to choose from, as pictures; one click changes the light. */
import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";
import CircularProgress from "@mui/material/CircularProgress";
import IconButton from "@mui/material/IconButton";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { Plus, Trash2 } from "lucide-react";
import { useCallback, useEffect, useRef, useState } from "react";
import { api, thumbnailUrl } from "../api/client";
import type { EnvironmentEntry } from "../api/types";
import { bringIn } from "../api/uploads";
import { FileInput } from "../controls/FileInput";
import { dragOf } from "../store/carried";
import { useSlice, useWorkspace } from "../store/context";
import { replace } from "../store/patch";

export function EnvironmentShelf() {
  const workspace = useWorkspace();
  const chosen = useSlice((s) => s.scene.environment.map?.sha256);
  const [items, setItems] = useState<EnvironmentEntry[]>([]);
  const [share, setShare] = useState<number | null>(null);
  const input = useRef<HTMLInputElement>(null);

  const fail = useCallback(
    (error: Error) => workspace.notify({ severity: "error", text: error.message }),
    [workspace],
  );
  useEffect(() => {
    api.environments().then(setItems, fail);
  }, [fail]);

  const lit = (item: EnvironmentEntry) => [replace("/environment/map", item.map)];
  const said = (item: EnvironmentEntry) => `Environment: ${item.name}`;
  const choose = (item: EnvironmentEntry) => workspace.commit(lit(item), said(item));

  const remove = (item: EnvironmentEntry) => {
    if (!confirm(`Take “${item.name}” off the shelf? Projects that use it keep it.`)) return;
    api.deleteEnvironment(item.id).then(() => setItems(items.filter((one) => one !== item)), fail);
  };

  const add = async (file: File) => {
    setShare(0);
    try {
      const id = await bringIn("environment", file, (progress) => setShare(progress.share));
      const all = await api.environments();
      setItems(all);
      const item = all.find((one) => one.id === id);
      for (const problem of item?.problems ?? [])
        workspace.notify({ severity: "warning", text: `${file.name}: ${problem}` });
      if (item) choose(item);
    } catch (error) {
      fail(error as Error);
    }
    setShare(null);
  };

  return (
    <Box
      sx={{ display: "flex", gap: 1.25 }}
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        event.preventDefault();
        const [file] = event.dataTransfer.files;
        if (file) add(file);
      }}
    >
      <ButtonBase
        onClick={() => workspace.commit([replace("/environment/map", null)], "Environment: even white light")}
        aria-label="Even white light"
        aria-pressed={chosen === undefined}
        sx={{
          flexDirection: "column",
          alignItems: "flex-start",
          borderRadius: 1,
          ...(chosen === undefined && { boxShadow: (t) => `0 0 0 2px ${t.palette.primary.main}` }),
        }}
      >
        <Box sx={{ width: 68, height: 68, borderRadius: 1, bgcolor: "#f4f4f4" }} />
        <Typography variant="caption" noWrap sx={{ maxWidth: 68, px: 0.5 }}>
          Even white
        </Typography>
      </ButtonBase>
      {items.map((item) => (
        <Box
          key={item.id}
          sx={{ position: "relative", "&:hover .take-off, .take-off:focus": { opacity: 1 } }}
        >
          <ButtonBase
            onClick={() => choose(item)}
            aria-label={`Environment ${item.name}`}
            aria-pressed={item.map.sha256 === chosen}
            {...dragOf({ onPart: false, patch: () => lit(item), label: () => said(item) }, item.name)}
            sx={{
              flexDirection: "column",
              alignItems: "flex-start",
              borderRadius: 1,
              outlineOffset: 2,
              ...(item.map.sha256 === chosen && { boxShadow: (t) => `0 0 0 2px ${t.palette.primary.main}` }),
            }}
          >
            <Box
              component="img"
              src={thumbnailUrl(item)}
              alt=""
              sx={{ width: 136, height: 68, objectFit: "cover", borderRadius: 1, display: "block" }}
            />
            <Typography variant="caption" noWrap sx={{ maxWidth: 132, px: 0.5 }}>
              {item.name}
            </Typography>
          </ButtonBase>
          {!item.built_in && (
            <Tooltip title="Take it off the shelf">
              <IconButton
                size="small"
                className="take-off"
                aria-label={`Take ${item.name} off the shelf`}
                onClick={() => remove(item)}
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
      ))}
      <ButtonBase
        onClick={() => input.current?.click()}
        disabled={share !== null}
        aria-label="Add an HDR map, .hdr or .exr"
        sx={{
          width: 104,
          height: 68,
          flexDirection: "column",
          border: "1px dashed",
          borderColor: "divider",
          borderRadius: 1,
          color: "text.secondary",
        }}
      >
        {share === null ? (
          <Plus size={18} />
        ) : (
          <CircularProgress
            size={18}
            color="secondary"
            variant={share < 1 ? "determinate" : "indeterminate"}
            value={share * 100}
          />
        )}
        <Typography variant="caption">.hdr or .exr</Typography>
      </ButtonBase>
      <FileInput ref={input} label="HDR map file" accept=".hdr,.exr" onFile={add} />
    </Box>
  );
}
