/** The name of a part or a group while it is written: Enter and leaving keep it, Escape takes it back. */
import InputBase from "@mui/material/InputBase";
import { useRef, useState } from "react";
import { useWorkspace } from "../store/context";
import { pointer, replace } from "../store/patch";

const LONGEST = 200;

interface Props {
  section: "parts" | "part_groups";
  id: string;
  name: string;
  onDone: () => void;
}

export function EntryName({ section, id, name, onDone }: Props) {
  const workspace = useWorkspace();
  const [text, setText] = useState(name);
  const over = useRef(false);
  const end = (keep: boolean) => {
    if (over.current) return; // leaving follows Enter
    over.current = true;
    const next = text.trim().slice(0, LONGEST);
    if (keep && next && next !== name)
      workspace.commit([replace(pointer(section, id, "name"), next)], `Rename ${name}`);
    onDone();
  };
  return (
    <InputBase
      autoFocus
      fullWidth
      value={text}
      onChange={(event) => setText(event.target.value)}
      onFocus={(event) => event.target.select()}
      onBlur={() => end(true)}
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === "Enter") end(true);
        if (event.key === "Escape") end(false);
      }}
      inputProps={{ "aria-label": `Name of ${name}` }}
      sx={{ fontSize: 13, bgcolor: "background.default", borderRadius: 1, px: 1 }}
    />
  );
}
