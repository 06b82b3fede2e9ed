/**
 * A list of any length that scrolls inside itself: only what is in sight is drawn. One stop of the Tab key; up and down
 * go from row to row, left and right between a row and what can be done with it.
 */
import Box from "@mui/material/Box";
import { useVirtualizer } from "@tanstack/react-virtual";
import { type KeyboardEvent, type ReactNode, useEffect, useRef } from "react";
import { useRoving } from "./useRoving";

const OVERSCAN = 6;

export interface RowHandles {
  /** Of the row's main control. */
  item: ReturnType<ReturnType<typeof useRoving>["itemProps"]>;
}

interface RowsProps {
  label: string;
  count: number;
  /** CSS pixels of a row. */
  height: number;
  /** Something that names the row at an index and nothing else. */
  keyOf: (index: number) => string;
  isSelected: (index: number) => boolean;
  /** The row: its main control carries `item`, others are not Tab stops. */
  render: (index: number, handles: RowHandles) => ReactNode;
  maxHeight: string;
  /** A row that is to be in sight when it becomes another: what was chosen elsewhere. */
  reveal?: number;
}

export function Rows({ label, count, height, keyOf, isSelected, render, maxHeight, reveal = -1 }: RowsProps) {
  const scroller = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count,
    getScrollElement: () => scroller.current,
    estimateSize: () => height,
    getItemKey: keyOf,
    overscan: OVERSCAN,
    useFlushSync: false,
  });
  const roving = useRoving(count, "vertical", (index) => virtual.scrollToIndex(index));

  useEffect(() => {
    if (reveal >= 0) virtual.scrollToIndex(reveal);
  }, [virtual, reveal]);

  /** Left and right within a row. */
  const onRowKey = (event: KeyboardEvent<HTMLElement>) => {
    if (event.key !== "ArrowLeft" && event.key !== "ArrowRight") return;
    const controls = [...event.currentTarget.querySelectorAll<HTMLElement>("button, [data-item]")];
    const at = controls.indexOf(document.activeElement as HTMLElement);
    const next = controls[at + (event.key === "ArrowRight" ? 1 : -1)];
    if (!next) return;
    event.preventDefault();
    event.stopPropagation();
    next.focus();
  };

  return (
    <Box
      ref={scroller}
      sx={{ maxHeight, overflowY: "auto", scrollbarWidth: "thin", mx: -0.5, px: 0.5 }}
      onKeyDown={roving.onKeyDown}
    >
      <Box
        ref={roving.list}
        role="grid"
        aria-label={label}
        aria-rowcount={count}
        aria-multiselectable
        style={{ height: virtual.getTotalSize(), position: "relative" }}
      >
        {virtual.getVirtualItems().map(({ index, key, start }) => (
          <Box
            key={key}
            role="row"
            tabIndex={-1}
            aria-rowindex={index + 1}
            aria-selected={isSelected(index)}
            onKeyDown={onRowKey}
            style={{
              position: "absolute",
              left: 0,
              right: 0,
              top: 0,
              height,
              transform: `translateY(${start}px)`,
            }}
          >
            {render(index, { item: roving.itemProps(index) })}
          </Box>
        ))}
      </Box>
    </Box>
  );
}
