// The cells that are chosen in the tree, by mouse or by keys, and the operations that set them.
import { useQuery } from "@tanstack/react-query";
import type { KeyboardEvent } from "react";
import { useState } from "react";
import { answer, api, type Shapes } from "../api/client";
import { keys } from "../shared/keys";
import type { Whom } from "./useLimits";

export type Effect = "stop" | "bar" | "lift" | null;
export type Applies = Shapes["CellsInputRequest"]["applies"];
type Place = { row: number; column: number | null };

/** Which rows and columns stand in a block; without a column the whole row counts. */
export type Block = { rows: [number, number]; columns: [number, number] };

/** Chosen cells of a grid so many columns wide. Without a column, rows are chosen whole. */
export function useCells(width: number, cursor: number) {
  const [column, goTo] = useState<number | null>(null);
  const [anchor, anchorAt] = useState<Place | null>(null);
  const at = { row: cursor, column };
  const from = anchor ?? at;
  const whole = from.column === null || column === null;
  const block: Block = {
    rows: ordered(from.row, cursor),
    columns: whole ? [0, width - 1] : ordered(from.column ?? 0, column ?? 0),
  };

  /** Whether a key moved among the columns; up and down are the tree's. */
  function pressed(event: KeyboardEvent, opens: boolean): boolean {
    if (event.altKey || event.ctrlKey || event.metaKey) return false;
    if (event.key === "ArrowUp" || event.key === "ArrowDown") {
      anchorAt(event.shiftKey ? from : null);
      return false;
    }
    const step = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
    if (step === 0 || (column === null && (step < 0 || opens))) return false;
    anchorAt(event.shiftKey ? from : null);
    const next = column === null ? 0 : column + step;
    goTo(next < 0 ? null : Math.min(next, width - 1));
    return true;
  }

  /** A cell was clicked; with `extend` the block reaches from where it began to there. */
  function click(next: number | null, extend: boolean) {
    anchorAt(extend ? from : null);
    goTo(next);
  }

  /** All rows listed of one column: the cursor is about to stand in the last of them. */
  function wholeColumn(next: number) {
    anchorAt({ row: 0, column: next });
    goTo(next);
  }

  return { column, block, pressed, click, wholeColumn };
}

export function holds({ rows, columns }: Block, row: number, column: number): boolean {
  return row >= rows[0] && row <= rows[1] && column >= columns[0] && column <= columns[1];
}

function ordered(a: number, b: number): [number, number] {
  return a < b ? [a, b] : [b, a];
}

/** Whom a limit names that is set in the tree about somebody; null where the tree is about several at once. */
export function limited(whom: Whom): Shapes["SubjectRequest"] | null {
  if (whom.account) return { kind: "account", id: whom.account };
  if (whom.group) return { kind: "group", id: whom.group };
  if (whom.visitor) return { kind: "role", id: "everyone" };
  const [one, ...more] = whom.roles ?? [];
  return one && more.length === 0 ? { kind: "role", id: one } : null;
}

export type Setting = {
  to: Shapes["SubjectRequest"];
  nodes: string[];
  actions: string[];
  effect: Effect;
  applies: Applies;
};

/** The operations that would set some cells; nothing is staged. */
export function settingCells(setting: Setting) {
  return answer(api.POST("/api/limits/cells", { body: setting })).then(({ operations }) => operations);
}

export function useSettingCells(setting: Setting | null) {
  return useQuery({
    queryKey: keys.limitCells(setting),
    queryFn: () => settingCells(setting as Setting),
    enabled: setting !== null,
    retry: false,
  });
}
