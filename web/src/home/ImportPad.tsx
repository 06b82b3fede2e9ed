/** Where an asset is brought in: drop it or choose it; shows progress and what was wrong. */
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import LinearProgress from "@mui/material/LinearProgress";
import Typography from "@mui/material/Typography";
import { PackageOpen } from "lucide-react";
import { type DragEvent, useRef, useState } from "react";
import { FileInput } from "../controls/FileInput";
import { useImport } from "./useImport";

interface Props {
  onDone: (project: number) => void;
  dense?: boolean;
  start?: number;
}

export function ImportPad({ onDone, dense = false, start }: Props) {
  const { bringing, problem, bring, cancel } = useImport(onDone, start);
  const [over, setOver] = useState(false);
  const input = useRef<HTMLInputElement>(null);

  const onDrop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    const [file] = event.dataTransfer.files;
    if (file) bring(file);
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
        {bringing ? (
          <Box role="status">
            <Typography noWrap>{bringing.file}</Typography>
            <Typography variant="body2" color="textSecondary" sx={{ mb: 1 }}>
              {bringing.stage} {Math.round(bringing.share * 100)} %
            </Typography>
            <LinearProgress
              color="secondary"
              variant="determinate"
              value={bringing.share * 100}
              aria-label={bringing.stage}
            />
            <Button size="small" color="inherit" onClick={cancel} sx={{ mt: 1 }}>
              Cancel
            </Button>
          </Box>
        ) : (
          <>
            {!dense && <PackageOpen size={30} strokeWidth={1.5} aria-hidden />}
            <Typography variant={dense ? "body2" : "body1"} sx={{ mb: 1.5 }}>
              {dense ? "Another asset makes a new project" : "Drop an asset or a saved project here"}
            </Typography>
            <Button size="small" variant="outlined" onClick={() => input.current?.click()}>
              Choose a file
            </Button>
            <Typography variant="caption" color="textSecondary" component="p" sx={{ mt: 1 }}>
              GLB, glTF, a zip of a glTF with its files, or a project’s package
            </Typography>
          </>
        )}
        <FileInput ref={input} label="Asset file" accept=".glb,.gltf,.zip" onFile={bring} />
      </Box>
      {problem && (
        <Alert severity="error" sx={{ mt: 1.5, overflowWrap: "anywhere" }}>
          {problem}
        </Alert>
      )}
    </Box>
  );
}
