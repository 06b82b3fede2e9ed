/** Pictures side by side on a shelf, as many as there are: only those in sight are drawn, and arrow keys go along them. */
import Box from "@mui/material/Box";
import { useVirtualizer } from "@tanstack/react-virtual";
import { type ReactNode, useRef } from "react";
import { useRoving } from "./useRoving";

const OVERSCAN = 4;

interface StripProps {
  label: string;
  count: number;
  /** CSS pixels from one to the next. */
  pitch: number | ((index: number) => number);
  keyOf: (index: number) => string;
  render: (index: number, item: ReturnType<ReturnType<typeof useRoving>["itemProps"]>) => ReactNode;
}

export function Strip({ label, count, pitch, keyOf, render }: StripProps) {
  const scroller = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    horizontal: true,
    count,
    getScrollElement: () => scroller.current,
    estimateSize: typeof pitch === "number" ? () => pitch : pitch,
    getItemKey: keyOf,
    overscan: OVERSCAN,
    useFlushSync: false,
  });
  const roving = useRoving(count, "horizontal", (index) => virtual.scrollToIndex(index));
  return (
    <Box
      ref={scroller}
      onKeyDown={roving.onKeyDown}
      sx={{ height: "100%", overflowX: "auto", overflowY: "hidden", scrollbarWidth: "thin", px: 2, py: 1.25 }}
    >
      <Box
        ref={roving.list}
        component="ul"
        aria-label={label}
        sx={{ position: "relative", height: "100%", m: 0, p: 0, listStyle: "none" }}
        style={{ width: virtual.getTotalSize() }}
      >
        {virtual.getVirtualItems().map(({ index, key, start }) => (
          <li
            key={key}
            aria-setsize={count}
            aria-posinset={index + 1}
            style={{ position: "absolute", left: 0, top: 0, transform: `translateX(${start}px)` }}
          >
            {render(index, roving.itemProps(index))}
          </li>
        ))}
      </Box>
    </Box>
  );
}
