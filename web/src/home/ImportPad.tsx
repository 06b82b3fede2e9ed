/** Where an asset is brought in: drop it or choose it. The tray shows how far it is, and opens what it has become. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import LinearProgress from "@mui/material/LinearProgress";
import Typography from "@mui/material/Typography";
import { PackageOpen } from "lucide-react";
import { type DragEvent, useEffect, useRef, useState } from "react";
import { changed } from "../api/queries";
import { FileInput } from "../controls/FileInput";
import { bring, forget, type Job, stop, useJobs } from "../store/jobs";

/** Endings of what may be an asset. */
export const ASSET_FILES = ".glb,.gltf,.usd,.usda,.usdc,.usdz,.obj,.stl,.ply,.zip";

interface Props {
  /** What the project of an asset dropped here does once it is there; without it, it waits in the tray. */
  onDone?: (project: number) => void;
  dense?: boolean;
  start?: number;
}

export function ImportPad({ onDone, dense = false, start }: Props) {
  const [over, setOver] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const isHere = useRef(false);
  useEffect(() => {
    isHere.current = true;
    return () => {
      isHere.current = false;
    };
  }, []);
  const jobs = useJobs().filter((job) => job.kind === "asset" && job.state !== "done");

  const take = async (file: File) => {
    const project = await bring("asset", file, { start });
    await changed.projects();
    // Whoever has gone elsewhere meanwhile is not carried off: it waits in the tray.
    if (project !== null && isHere.current) onDone?.(project);
  };
  const onDrop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    for (const file of event.dataTransfer.files) take(file);
  };

  return (
    <Box>
      <Box
        data-testid="import-pad"
        onDragOver={(event) => {
          event.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={onDrop}
        sx={{
          border: "1px dashed",
          borderColor: over ? "primary.main" : "divider",
          bgcolor: over ? "rgba(185,120,171,0.10)" : "transparent",
          borderRadius: 2,
          p: dense ? 1.5 : 4,
          textAlign: "center",
        }}
      >
        {!dense && <PackageOpen size={30} strokeWidth={1.5} aria-hidden />}
        <Typography variant={dense ? "body2" : "body1"} sx={{ mb: 1.5 }}>
          {dense ? "Another asset makes a new project" : "Drop an asset or a saved project here"}
        </Typography>
        <Button size="small" variant="outlined" onClick={() => input.current?.click()}>
          Choose a file
        </Button>
        <Typography variant="caption" color="textSecondary" component="p" sx={{ mt: 1 }}>
          GLB, glTF, USD, OBJ, STL, PLY, a zip of one with its files, or a project’s package
        </Typography>
        <FileInput ref={input} label="Asset file" accept={ASSET_FILES} onFile={take} />
      </Box>
      {jobs.map((job) => (
        <Bringing key={job.id} job={job} />
      ))}
    </Box>
  );
}

function Bringing({ job }: { job: Job }) {
  if (job.state === "failed")
    return (
      <Alert severity="error" onClose={() => forget(job.id)} sx={{ mt: 1.5, overflowWrap: "anywhere" }}>
        {job.problem}
      </Alert>
    );
  return (
    <Box role="status" sx={{ mt: 1.5, textAlign: "center" }}>
      <Typography noWrap variant="body2">
        {job.file}
      </Typography>
      <Typography variant="caption" color="textSecondary" component="p" sx={{ mb: 0.5 }}>
        {job.stage} {Math.round(job.share * 100)} %
      </Typography>
      <LinearProgress
        color="secondary"
        variant="determinate"
        value={job.share * 100}
        aria-label={job.stage}
      />
      <Button size="small" color="inherit" onClick={() => stop(job.id)} sx={{ mt: 0.5 }}>
        Cancel
      </Button>
    </Box>
  );
}
