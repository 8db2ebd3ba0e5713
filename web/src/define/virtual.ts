// The rows of a board as they are drawn: area heads and rows, only those in view and the current one.
import { defaultRangeExtractor, useVirtualizer } from "@tanstack/react-virtual";
import { type RefObject, useLayoutEffect, useRef, useState } from "react";
import type { Row } from "./grid";

export type BoardItem = { area: string; row?: Row };

/** Each area's head, then its rows unless it is folded. */
export function boardItems(rows: Row[], folded: string[]): BoardItem[] {
  const items: BoardItem[] = [];
  for (const row of rows) {
    if (items.at(-1)?.area !== row.area) items.push({ area: row.area });
    if (!folded.includes(row.area)) items.push({ area: row.area, row });
  }
  return items;
}

/** Where a list begins within the nearest part that scrolls, which holds more than the list. */
function useMargin(list: RefObject<HTMLElement | null>) {
  const [margin, setMargin] = useState(0);
  useLayoutEffect(() => {
    const box = list.current?.closest<HTMLElement>("[data-scrolls]");
    if (!box || !list.current) return;
    const top = list.current.getBoundingClientRect().top - box.getBoundingClientRect().top + box.scrollTop;
    setMargin(Math.round(top));
  });
  return margin;
}

/** The lines of a table in view, and how high what is above and beneath them would be. */
export function useVirtualLines(count: number, height: number) {
  const list = useRef<HTMLTableSectionElement>(null);
  const scrollMargin = useMargin(list);
  const virtual = useVirtualizer({
    count,
    getScrollElement: () => list.current?.closest<HTMLElement>("[data-scrolls]") ?? null,
    estimateSize: () => height,
    overscan: 16,
    scrollMargin,
  });
  const items = virtual.getVirtualItems();
  const above = (items[0]?.start ?? scrollMargin) - scrollMargin;
  const beneath = virtual.getTotalSize() - ((items.at(-1)?.end ?? scrollMargin) - scrollMargin);
  return { list, shown: items.map(({ index }) => index), above, beneath };
}

/** The items in view within the nearest part that scrolls; `held` is always among them, so that it can have the focus. */
export function useVirtualItems(items: BoardItem[], held: number) {
  const list = useRef<HTMLDivElement>(null);
  const scrollMargin = useMargin(list);
  const virtual = useVirtualizer({
    count: items.length,
    getScrollElement: () => list.current?.closest<HTMLElement>("[data-scrolls]") ?? null,
    estimateSize: (index) => (items[index]?.row?.duties ? 45 : items[index]?.row ? 35 : 32),
    getItemKey: (index) => items[index]?.row?.key ?? `area ${items[index]?.area}`,
    rangeExtractor: (range) =>
      [...new Set([...defaultRangeExtractor(range), held])]
        .filter((index) => index >= 0)
        .sort((a, b) => a - b),
    overscan: 8,
    scrollMargin,
  });
  return { list, virtual };
}
