/** How the files of prints are called: by a template, with what comes of it for the next one. */
import TextField from "@mui/material/TextField";
import { useEffect, useState } from "react";
import { api } from "../api/client";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { pointer, replace } from "../store/patch";

const REST_MS = 300;

export function FileNames() {
  const workspace = useWorkspace();
  const project = useSlice((s) => s.project);
  const revision = useSlice((s) => s.revision);
  const saved = useScene((s) => s.print.file_name);
  const [text, setText] = useState(saved);
  const [next, setNext] = useState("");
  const [problem, setProblem] = useState("");
  useEffect(() => setText(saved), [saved]);
  // A name depends on much of the document: it is asked for anew whenever that has been saved.
  // biome-ignore lint/correctness/useExhaustiveDependencies: see above
  useEffect(() => {
    const rest = setTimeout(async () => {
      try {
        const found = await api.printName(project, text);
        setNext(found.name);
        setProblem(found.problem);
      } catch (error) {
        setProblem((error as Error).message);
      }
    }, REST_MS);
    return () => clearTimeout(rest);
  }, [project, text, revision]);
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
      helperText={problem || `The next: ${next}`}
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
