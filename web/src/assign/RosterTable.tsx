// The table of accounts: virtual, sorted by a column, moved through and chosen from by keyboard.

import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { NameMenu } from "../shared/NameMenu";
import type { RosterRow, Sort } from "../shared/useAccounts";
import { type Role, useRoleMap } from "../shared/useRoles";
import { type Selected, turned } from "./chosen";
import type { Column } from "./columns";

const ROW = 38;

type TableProps = {
  rows: RosterRow[];
  total: number;
  columns: Column[];
  chosen: string;
  selected: Selected;
  onSelect: (selected: Selected) => void;
  sort: Sort;
  down: boolean;
  onSort: (sort: Sort) => void;
  onAll: () => void;
  more: () => void;
};

export function RosterTable(props: TableProps) {
  const { rows, total, columns, chosen, selected, onSelect, more } = props;
  const roles = useRoleMap();
  const box = useRef<HTMLDivElement>(null);
  const navigate = useNavigate();
  const [cursor, setCursor] = useState("");
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 12,
  });
  const items = virtual.getVirtualItems();
  const last = items.at(-1)?.index ?? 0;
  useEffect(() => {
    if (last > rows.length - 40 && rows.length < total) more();
  }, [last, rows.length, total, more]);
  const found = rows.findIndex((row) => row.id === (cursor || chosen));
  const at = Math.max(found, 0);
  const grid = { gridTemplateColumns: `28px minmax(130px,1.4fr) ${columns.map((c) => c.width).join(" ")}` };

  function isSelected(row: RosterRow): boolean {
    return selected.all || selected.ids.has(row.id);
  }

  function choose(row: RosterRow, on: boolean) {
    if (selected.all && !on) onSelect(turned({ ...selected, all: false }, others(rows, row), true));
    else onSelect(turned(selected, [row.id], on));
  }

  function go(index: number) {
    const row = rows[index];
    if (!row) return;
    setCursor(row.id);
    virtual.scrollToIndex(index);
    requestAnimationFrame(() =>
      box.current?.querySelector<HTMLElement>(`[data-account="${row.id}"]`)?.focus(),
    );
  }

  function open(row: RosterRow) {
    setCursor(row.id);
    navigate(`/assign/${row.id}${window.location.search}`);
  }

  function onKeyDown(event: React.KeyboardEvent) {
    const row = rows[at];
    const step = { ArrowDown: 1, ArrowUp: -1, PageDown: 15, PageUp: -15 }[event.key];
    if (step) {
      event.preventDefault();
      const next = Math.min(Math.max(at + step, 0), rows.length - 1);
      if (event.shiftKey && row) onSelect(turned(selected, between(rows, at, next), true));
      go(next);
      if (chosen && !event.shiftKey && rows[next]) open(rows[next]);
    } else if (row && (event.key === " " || event.key === "x") && isRow(event.target)) {
      event.preventDefault();
      choose(row, !isSelected(row));
    } else if (row && event.key === "Enter" && isRow(event.target)) {
      open(row);
    }
  }

  return (
    <div
      role="grid"
      aria-label="Accounts"
      aria-rowcount={total + 1}
      aria-multiselectable="true"
      className="flex min-h-0 flex-1 flex-col"
      onKeyDown={onKeyDown}
    >
      <Head {...props} grid={grid} />
      <div ref={box} className="min-h-0 flex-1 overflow-y-auto">
        <div role="rowgroup" style={{ height: virtual.getTotalSize(), position: "relative" }}>
          {items.map(({ index, start }) => {
            const row = rows[index];
            return row ? (
              <Line
                key={row.id}
                row={row}
                index={index}
                style={{ ...grid, top: start, height: ROW }}
                columns={columns}
                roles={roles}
                open={row.id === chosen}
                selected={isSelected(row)}
                focusable={index === at}
                onFocus={() => setCursor(row.id)}
                onOpen={() => open(row)}
                onSelect={(on) => choose(row, on)}
              />
            ) : null;
          })}
        </div>
      </div>
    </div>
  );
}

function isRow(target: EventTarget): boolean {
  return target instanceof HTMLElement && target.getAttribute("role") === "row";
}

function others(rows: RosterRow[], but: RosterRow): string[] {
  return rows.filter(({ id }) => id !== but.id).map(({ id }) => id);
}

function between(rows: RosterRow[], from: number, to: number): string[] {
  return rows.slice(Math.min(from, to), Math.max(from, to) + 1).map(({ id }) => id);
}

type HeadProps = TableProps & { grid: React.CSSProperties };

function Head({ columns, selected, onSelect, total, onAll, sort, down, onSort, grid }: HeadProps) {
  const every = selected.all || (total > 0 && selected.ids.size === total);
  const all: { key: string; name: string; sort?: Sort }[] = [
    { key: "account", name: "Account", sort: "name" },
    ...columns,
  ];
  return (
    <div
      role="row"
      aria-rowindex={1}
      className="grid items-center border-b border-line px-[18px] py-1 text-xs text-ink2"
      style={grid}
    >
      <span role="columnheader">
        <input
          type="checkbox"
          aria-label="Choose all that match"
          checked={every}
          onChange={() => (every ? onSelect({ ...selected, all: false, ids: new Set() }) : onAll())}
        />
      </span>
      {all.map((column) => (
        <span
          key={column.key}
          role="columnheader"
          aria-sort={column.sort === sort ? (down ? "descending" : "ascending") : undefined}
        >
          {column.sort ? (
            <button type="button" className="hover:text-ink" onClick={() => onSort(column.sort as Sort)}>
              {column.name}
              <span aria-hidden="true">{column.sort === sort ? (down ? " ↓" : " ↑") : ""}</span>
            </button>
          ) : (
            column.name
          )}
        </span>
      ))}
    </div>
  );
}

type LineProps = {
  row: RosterRow;
  index: number;
  style: React.CSSProperties;
  columns: Column[];
  roles: Map<string, Role>;
  open: boolean;
  selected: boolean;
  focusable: boolean;
  onFocus: () => void;
  onOpen: () => void;
  onSelect: (on: boolean) => void;
};

function Line({ row, columns, roles, open, selected, ...rest }: LineProps) {
  const { index, style, focusable, onFocus, onOpen, onSelect } = rest;
  return (
    <div
      role="row"
      aria-rowindex={index + 2}
      aria-selected={selected}
      aria-current={open || undefined}
      tabIndex={focusable ? 0 : -1}
      data-account={row.id}
      onFocus={onFocus}
      onClick={onOpen}
      style={style}
      className={`absolute inset-x-0 grid cursor-pointer items-center border-b border-l-4 border-b-line pr-[18px] pl-[14px] -outline-offset-2 ${
        open
          ? "border-l-brass bg-paper"
          : selected
            ? "border-l-transparent bg-warm"
            : "border-l-transparent hover:bg-linen"
      }`}
    >
      <span role="gridcell">
        <input
          type="checkbox"
          tabIndex={-1}
          aria-label={`Choose ${row.name}`}
          checked={selected}
          onClick={(event) => event.stopPropagation()}
          onChange={(event) => onSelect(event.target.checked)}
        />
      </span>
      <span role="gridcell" className="min-w-0 pr-2">
        <span
          className={`group/name flex items-center text-read leading-tight font-semibold ${row.state === "active" ? "" : "text-ink2"}`}
        >
          <span className="truncate">{row.name}</span>
          <NameMenu of={{ account: row.id }} name={row.name} tabIndex={-1} />
        </span>
        <span className="block truncate text-xs leading-tight text-ink2">
          {row.state === "active" ? row.email : `${row.state} · ${row.email}`}
        </span>
      </span>
      {columns.map((column) => (
        <span key={column.key} role="gridcell" className="min-w-0 pr-1.5">
          {column.cell(row, roles)}
        </span>
      ))}
    </div>
  );
}
