/** The drawer of a stop: its controls, under a field that finds them. */
import Box from "@mui/material/Box";
import { useMemo, useState } from "react";
import { FindingContext } from "../controls/finding";
import { useSlice } from "../store/context";
import type { Stop } from "../store/view";
import { DrawerHead } from "./DrawerHead";
import type { StopView } from "./stops";

/** What there is to find in the drawer of a stop. */
const findsAt = (stop: Stop, hasSelection: boolean) =>
  stop === "asset" || (stop === "materials" && !hasSelection) ? "a part" : "a control";

export function Drawer({ stop: { id, label, drawer: Controls } }: { stop: StopView }) {
  const hasSelection = useSlice((s) => s.selection.length > 0);
  const [text, setText] = useState("");
  const [changedOnly, setChangedOnly] = useState(false);
  const finding = useMemo(
    () => ({ query: text.trim().toLowerCase(), changedOnly: changedOnly && id !== "asset" }),
    [text, changedOnly, id],
  );
  return (
    <Box
      component="aside"
      aria-label={label}
      sx={{
        height: "100%",
        overflowY: "auto",
        scrollbarWidth: "thin",
        px: 2,
        pb: 2,
        bgcolor: "background.paper",
      }}
    >
      <DrawerHead
        finds={findsAt(id, hasSelection)}
        text={text}
        onText={setText}
        changedOnly={finding.changedOnly}
        onChangedOnly={id === "asset" ? undefined : setChangedOnly}
      />
      <FindingContext.Provider value={finding}>
        <Controls />
      </FindingContext.Provider>
    </Box>
  );
}
