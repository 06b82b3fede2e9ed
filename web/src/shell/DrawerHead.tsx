/** At the top of a drawer: a field that finds a control, or a part, by name, and "changed only". */
import Box from "@mui/material/Box";
import InputBase from "@mui/material/InputBase";
import ToggleButton from "@mui/material/ToggleButton";
import Tooltip from "@mui/material/Tooltip";
import { Diff, Search } from "lucide-react";
import type { KeyboardEvent } from "react";

interface Props {
  /** What the field finds. */
  finds: string;
  text: string;
  onText: (text: string) => void;
  changedOnly: boolean;
  /** Undefined where there is nothing that could be changed. */
  onChangedOnly: ((changedOnly: boolean) => void) | undefined;
}

export function DrawerHead({ finds, text, onText, changedOnly, onChangedOnly }: Props) {
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.key !== "Escape" || text === "") return;
    event.stopPropagation();
    onText("");
  };
  const word = `Find ${finds}`;
  return (
    <Box
      sx={{
        position: "sticky",
        top: 0,
        zIndex: 1,
        display: "flex",
        alignItems: "center",
        gap: 1,
        mx: -2,
        px: 2,
        py: 1,
        mb: 1,
        bgcolor: "background.paper",
        borderBottom: "1px solid",
        borderColor: "divider",
      }}
    >
      <Search size={14} aria-hidden style={{ flexShrink: 0, opacity: 0.7 }} />
      <InputBase
        value={text}
        onChange={(event) => onText(event.target.value)}
        onKeyDown={onKeyDown}
        placeholder={word}
        inputProps={{ "aria-label": word, type: "search", autoComplete: "off" }}
        sx={{
          flex: 1,
          fontSize: 12.5,
          "& input": { p: 0.25 },
          // The browser's own is of no colour of ours; Escape empties the field.
          "& input::-webkit-search-cancel-button": { display: "none" },
        }}
      />
      {onChangedOnly && (
        <Tooltip title="Changed only">
          <ToggleButton
            size="small"
            value="changed"
            selected={changedOnly}
            onChange={() => onChangedOnly(!changedOnly)}
            aria-label="Changed only"
            sx={{ p: 0.5, border: 0 }}
          >
            <Diff size={14} />
          </ToggleButton>
        </Tooltip>
      )}
    </Box>
  );
}
