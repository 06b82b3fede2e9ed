/** How the files of prints are called: by a template, with what comes of it for the next one. */
import TextField from "@mui/material/TextField";
import { useEffect, useState } from "react";
import { usePrintName } from "../api/queries";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { pointer, replace } from "../store/patch";

export function FileNames() {
  const workspace = useWorkspace();
  const project = useSlice((s) => s.project);
  const revision = useSlice((s) => s.revision);
  const saved = useScene((s) => s.print.file_name);
  const [text, setText] = useState(saved);
  useEffect(() => setText(saved), [saved]);
  const found = usePrintName(project, text, revision);
  const problem = found.data?.problem ?? found.error?.message ?? "";
  const take = () => {
    if (text !== saved && !problem)
      workspace.commit([replace(pointer("print", "file_name"), text)], "Names of the files");
  };
  return (
    <TextField
      fullWidth
      size="small"
      label="Names of the files"
      value={text}
      error={problem !== ""}
      helperText={problem || `The next: ${found.data?.name ?? "…"}`}
      onChange={(event) => setText(event.target.value)}
      onBlur={take}
      onKeyDown={(event) => {
        if (event.key === "Enter") take();
      }}
      slotProps={{ htmlInput: { maxLength: 200 } }}
      sx={{ mt: 1.5, mb: 0.5 }}
    />
  );
}
