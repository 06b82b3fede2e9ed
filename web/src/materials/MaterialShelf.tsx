/** The shelf below the picture: the materials of the project, or those of the library, found by family and words. */
import Box from "@mui/material/Box";
import IconButton from "@mui/material/IconButton";
import MenuItem from "@mui/material/MenuItem";
import Select from "@mui/material/Select";
import TextField from "@mui/material/TextField";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import { Upload } from "lucide-react";
import { useDeferredValue, useMemo, useRef, useState } from "react";
import { latestSwatches, useSwatches } from "../api/queries";
import { FileInput } from "../controls/FileInput";
import { useSlice, useWorkspace } from "../store/context";
import { bring } from "../store/jobs";
import { LibraryShelf } from "./LibraryShelf";
import { SwatchShelf } from "./SwatchShelf";
import { familiesOf, found } from "./swatches";

/** What says of the window that the library stands on the shelf. */
const LIBRARY = "shelf.library";
const EVERY = "";
/** The family of what a person has kept or brought. */
const OWN = "My own";

/** Brings the materials of a MaterialX file, or of a zip of one with its images, among the person's own. */
function BringMaterials({ onBrought }: { onBrought: () => void }) {
  const workspace = useWorkspace();
  const input = useRef<HTMLInputElement>(null);
  const [busy, setBusy] = useState(false);
  const add = async (file: File) => {
    setBusy(true);
    const number = await bring("material", file, {
      onProblem: (text) => workspace.notify({ severity: "error", text }),
    });
    const first =
      number === null ? undefined : (await latestSwatches()).find((each) => each.number === number);
    if (first) {
      const text = first.problems.length > 0 ? first.problems.join("; ") : `${first.name} is in the library.`;
      workspace.notify({ severity: "info", text });
      onBrought();
    }
    setBusy(false);
  };
  return (
    <>
      <IconButton
        size="small"
        disabled={busy}
        aria-label="Bring materials"
        title={busy ? "Reading…" : "Bring materials of a MaterialX file"}
        onClick={() => input.current?.click()}
        sx={{ p: 0.5 }}
      >
        <Upload size={14} />
      </IconButton>
      <FileInput ref={input} label="MaterialX file" accept=".mtlx,.zip" onFile={add} />
    </>
  );
}

export function MaterialShelf() {
  const workspace = useWorkspace();
  const isLibrary = useSlice((s) => s.unfolded[LIBRARY]) ?? false;
  const [family, setFamily] = useState(EVERY);
  const [words, setWords] = useState("");
  const { data: all = [] } = useSwatches(isLibrary);
  const families = useMemo(() => familiesOf(all), [all]);
  const sought = useDeferredValue(words);
  // The last favourite may have been taken from there.
  const chosen = families.includes(family) ? family : EVERY;
  const shown = useMemo(() => found(all, chosen, sought), [all, chosen, sought]);
  return (
    <Box sx={{ display: "flex", height: "100%" }}>
      <Box
        sx={{
          width: 168,
          flexShrink: 0,
          display: "flex",
          flexDirection: "column",
          gap: 0.75,
          pl: 1.5,
          py: 1.25,
        }}
      >
        <ToggleButtonGroup
          exclusive
          fullWidth
          size="small"
          value={isLibrary ? "library" : "project"}
          aria-label="Materials of"
          onChange={(_, next: string | null) => next && workspace.unfold(LIBRARY, next === "library")}
          sx={{ "& button": { py: 0.1, fontSize: 12, textTransform: "none" } }}
        >
          <ToggleButton value="project">Project</ToggleButton>
          <ToggleButton value="library">Library</ToggleButton>
        </ToggleButtonGroup>
        {isLibrary && (
          <>
            <Box sx={{ display: "flex", alignItems: "center", gap: 0.25 }}>
              <Select
                size="small"
                displayEmpty
                value={chosen}
                onChange={(event) => setFamily(event.target.value)}
                inputProps={{ "aria-label": "Family" }}
                sx={{ flex: 1, minWidth: 0, fontSize: 12.5, "& .MuiSelect-select": { py: 0.25, pl: 1 } }}
              >
                <MenuItem dense value={EVERY}>
                  All families
                </MenuItem>
                {families.map((each) => (
                  <MenuItem dense key={each} value={each}>
                    {each}
                  </MenuItem>
                ))}
              </Select>
              <BringMaterials onBrought={() => setFamily(OWN)} />
            </Box>
            <TextField
              size="small"
              placeholder="Find a material"
              value={words}
              onChange={(event) => setWords(event.target.value)}
              slotProps={{ htmlInput: { "aria-label": "Find a material", maxLength: 80 } }}
              sx={{ "& input": { py: 0.4, px: 1, fontSize: 12.5 } }}
            />
          </>
        )}
      </Box>
      <Box sx={{ flex: 1, minWidth: 0 }}>
        {isLibrary ? <LibraryShelf entries={shown} /> : <SwatchShelf />}
      </Box>
    </Box>
  );
}
