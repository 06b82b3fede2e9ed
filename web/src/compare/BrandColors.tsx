/** Brand colours: what parts are to look like, how near they come, and the base colour that would bring them there. */
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import IconButton from "@mui/material/IconButton";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { FileUp, MoreHorizontal } from "lucide-react";
import { useRef, useState } from "react";
import type { BrandColor } from "../api/types";
import { FileInput } from "../controls/FileInput";
import { Section } from "../controls/Section";
import { useScene, useSlice, useWorkspace } from "../store/context";
import { SHOT } from "../store/panes";
import { BrandReport } from "./BrandReport";
import { said, useFidelity } from "./fidelity";

export function BrandColors() {
  const workspace = useWorkspace();
  const brands = useScene((s) => s.brand_colors);
  const selection = useSlice((s) => s.selection);
  const [text, setText] = useState("");
  const file = useRef<HTMLInputElement>(null);
  const read = (content: string) =>
    workspace.commitBy("read_brand", SHOT, { text: content, parts: [...selection] });
  const add = async () => {
    if (await read(text)) setText("");
  };
  return (
    <Section title="Brand colours">
      {Object.entries(brands).map(([key, brand]) => (
        <OneBrand key={key} id={key} brand={brand} />
      ))}
      <Box
        component="form"
        onSubmit={(event) => {
          event.preventDefault();
          void add();
        }}
        sx={{ display: "flex", gap: 0.5 }}
      >
        <TextField
          size="small"
          label="#rrggbb, or L* a* b*"
          value={text}
          onChange={(event) => setText(event.target.value)}
          sx={{ flex: 1 }}
        />
        <Button type="submit" size="small" variant="outlined" disabled={!text.trim()}>
          Add
        </Button>
        <Tooltip title="Read a CxF file">
          <IconButton size="small" aria-label="Read a CxF file" onClick={() => file.current?.click()}>
            <FileUp size={15} />
          </IconButton>
        </Tooltip>
        <FileInput
          ref={file}
          label="CxF file of brand colours"
          accept=".cxf,.xml,.txt"
          onFile={(chosen) => void chosen.text().then(read)}
        />
      </Box>
    </Section>
  );
}

function OneBrand({ id, brand }: { id: string; brand: BrandColor }) {
  const workspace = useWorkspace();
  const parts = useScene((s) => s.parts);
  const selection = useSlice((s) => s.selection);
  const found = useFidelity(id);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [reports, setReports] = useState(false);
  const names = brand.parts.map((key) => parts[key]?.name).filter(Boolean);
  const choose = (run: () => void) => () => {
    setAnchor(null);
    run();
  };
  const set = (field: string, value: unknown, label: string) =>
    workspace.commit([{ op: "replace", path: `/brand_colors/${id}/${field}`, value }], label);
  const remove = () =>
    workspace.commit([{ op: "remove", path: `/brand_colors/${id}` }], `Remove ${brand.name}`);
  return (
    <Box role="group" aria-label={`Brand colour ${brand.name}`} sx={{ mb: 1 }}>
      <Box sx={{ display: "flex", alignItems: "center", gap: 1 }}>
        <Box
          sx={{
            width: 26,
            height: 26,
            flexShrink: 0,
            borderRadius: "4px",
            bgcolor: `lab(${brand.lab[0]}% ${brand.lab[1]} ${brand.lab[2]})`,
          }}
        />
        <Box sx={{ flex: 1, minWidth: 0 }}>
          <Typography variant="body2" noWrap>
            {brand.name}
          </Typography>
          <Typography variant="caption" color="textSecondary" noWrap component="p">
            {names.length === 0 ? "no part has it yet" : names.join(", ")}
          </Typography>
        </Box>
        <IconButton
          size="small"
          aria-label={`More of ${brand.name}`}
          onClick={(event) => setAnchor(event.currentTarget)}
        >
          <MoreHorizontal size={15} />
        </IconButton>
      </Box>
      {names.length > 0 && found && (
        <>
          <Difference what="As shown" delta={found.typical} worst={found.worst} />
          <Difference what="In even light" delta={found.even} />
        </>
      )}
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        <MenuItem
          disabled={selection.length === 0}
          onClick={choose(() => set("parts", [...selection], `${brand.name} on parts`))}
        >
          Tie to the selected parts
        </MenuItem>
        <MenuItem
          disabled={names.length === 0}
          onClick={choose(() => void workspace.commitBy("nearest_base", SHOT, { brand: id }))}
        >
          Take the nearest base colour
        </MenuItem>
        <MenuItem disabled={names.length === 0} onClick={choose(() => setReports(true))}>
          Report over editions and light
        </MenuItem>
        <MenuItem
          onClick={choose(() => {
            const name = prompt("Name of the colour", brand.name)?.trim().slice(0, 200);
            if (name) set("name", name, `Rename ${brand.name}`);
          })}
        >
          Rename
        </MenuItem>
        <MenuItem onClick={choose(remove)}>Remove</MenuItem>
      </Menu>
      {reports && <BrandReport id={id} brand={brand} onClose={() => setReports(false)} />}
    </Box>
  );
}

function Difference({
  what,
  delta,
  worst = null,
}: {
  what: string;
  delta: number | null;
  worst?: number | null;
}) {
  return (
    <Typography
      variant="caption"
      component="p"
      noWrap
      title={delta === null ? undefined : said(delta)}
      sx={{ display: "flex", pl: 4.25 }}
    >
      <Box component="span" sx={{ flex: 1, color: "text.secondary" }}>
        {what}
      </Box>
      {delta === null
        ? "too little is seen"
        : `ΔE ${delta.toFixed(1)}, ${worst === null ? said(delta) : `up to ${worst.toFixed(1)}`}`}
    </Typography>
  );
}
