// The roster: every account in a dense, virtual table that filters as one types.
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { RoleCloth } from "../cloth/RoleCloth";
import { since } from "../shared/time";
import { Chip, Empty, ErrorNotice, INPUT, Loading } from "../shared/ui";
import { type RosterRow, useGroups, useRoster } from "../shared/useAccounts";
import { useParam } from "../shared/useParam";
import { type Role, useRoleMap } from "../shared/useRoles";

const ROW = 38;
const COLUMNS =
  "grid grid-cols-[minmax(0,1fr)_138px_112px_46px] max-[1180px]:grid-cols-[minmax(0,1fr)_112px_84px_42px]";

export function Roster({ chosen }: { chosen: string }) {
  const [, setParams] = useSearchParams();
  const [search, setSearch] = useParam("search");
  const [role, setRole] = useParam("role");
  const [group, setGroup] = useParam("group");
  const [state, setState] = useParam("state");
  const roster = useRoster({ search, role, group, state });
  const roles = useRoleMap();
  const groups = useGroups().data ?? [];
  const rows = roster.data?.pages.flatMap((page) => page.results) ?? [];
  const total = roster.data?.pages[0]?.count ?? 0;
  const filtered = search || role || group || state;
  return (
    <section
      aria-label="Roster"
      className="flex w-[520px] shrink-0 max-[1180px]:w-[430px] flex-col border-r border-line bg-linen2 pt-[30px]"
    >
      <div className="flex items-baseline gap-3 px-[18px]">
        <h1>Roster</h1>
        <span className="text-sm">
          Accounts <strong className="figures">{total}</strong>
        </span>
        {filtered && (
          <button type="button" className="text-xs underline" onClick={() => setParams({})}>
            Show all
          </button>
        )}
      </div>
      <div className="mt-2 mb-2 flex gap-[7px] px-[18px]">
        <label className="min-w-0 flex-1">
          <span className="sr-only">Name or address</span>
          <input
            value={search}
            onChange={(event) => setSearch(event.target.value)}
            placeholder="Name or address"
            className={INPUT}
          />
        </label>
        <Pick
          label="Role"
          value={role}
          onPick={setRole}
          options={[...roles.values()].filter((r) => !r.baseline)}
        />
        <Pick label="Group" value={group} onPick={setGroup} options={groups} />
      </div>
      <div className="mb-1 flex gap-[7px] px-[18px]">
        {["active", "invited", "disabled"].map((name) => (
          <Chip key={name} on={state === name} onClick={() => setState(state === name ? "" : name)}>
            {name}
          </Chip>
        ))}
      </div>
      {roster.error && <ErrorNotice error={roster.error} again={roster.refetch} />}
      {roster.isPending && <Loading what="the roster" />}
      {roster.data && rows.length === 0 && (
        <Empty title="Nobody is like that">Take one of the filters away.</Empty>
      )}
      {rows.length > 0 && (
        <Table
          rows={rows}
          total={total}
          roles={roles}
          chosen={chosen}
          more={() => roster.hasNextPage && !roster.isFetchingNextPage && roster.fetchNextPage()}
        />
      )}
    </section>
  );
}

type Option = { key: string; name: string };

function Pick({
  label,
  value,
  onPick,
  options,
}: {
  label: string;
  value: string;
  onPick: (v: string) => void;
  options: Option[];
}) {
  return (
    <select
      aria-label={label}
      value={value}
      onChange={(event) => onPick(event.target.value)}
      className={`${INPUT} w-[124px]!`}
    >
      <option value="">Any {label.toLowerCase()}</option>
      {options.map(({ key, name }) => (
        <option key={key} value={key}>
          {name}
        </option>
      ))}
    </select>
  );
}

type TableProps = {
  rows: RosterRow[];
  total: number;
  roles: Map<string, Role>;
  chosen: string;
  more: () => void;
};

function Table({ rows, total, roles, chosen, more }: TableProps) {
  const box = useRef<HTMLDivElement>(null);
  const navigate = useNavigate();
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
  const at = rows.findIndex((row) => row.id === chosen);

  function open(index: number) {
    const row = rows[index];
    if (!row) return;
    navigate(`/assign/${row.id}${window.location.search}`);
    virtual.scrollToIndex(index);
    requestAnimationFrame(() =>
      box.current?.querySelector<HTMLElement>(`[data-account="${row.id}"]`)?.focus(),
    );
  }

  return (
    <div
      role="grid"
      aria-label="Accounts"
      aria-rowcount={total + 1}
      className="flex min-h-0 flex-1 flex-col"
      onKeyDown={(event) => {
        const step = { ArrowDown: 1, ArrowUp: -1, PageDown: 15, PageUp: -15 }[event.key];
        if (!step) return;
        event.preventDefault();
        open(Math.min(Math.max(Math.max(at, 0) + step, 0), rows.length - 1));
      }}
    >
      <div
        role="row"
        aria-rowindex={1}
        className={`${COLUMNS} border-b border-line px-[18px] py-1 text-xs text-ink2`}
      >
        {["Account", "Roles", "Groups", "Seen"].map((name) => (
          <span key={name} role="columnheader">
            {name}
          </span>
        ))}
      </div>
      <div ref={box} className="min-h-0 flex-1 overflow-y-auto">
        <div role="rowgroup" style={{ height: virtual.getTotalSize(), position: "relative" }}>
          {items.map(({ index, start }) => {
            const row = rows[index];
            return row ? (
              <Line
                key={row.id}
                row={row}
                index={index}
                top={start}
                roles={roles}
                chosen={row.id === chosen}
                focusable={row.id === chosen || (at < 0 && index === 0)}
                onOpen={() => open(index)}
              />
            ) : null;
          })}
        </div>
      </div>
    </div>
  );
}

type LineProps = {
  row: RosterRow;
  index: number;
  top: number;
  roles: Map<string, Role>;
  chosen: boolean;
  focusable: boolean;
  onOpen: () => void;
};

function Line({ row, index, top, roles, chosen, focusable, onOpen }: LineProps) {
  const held = row.roles.map((key) => roles.get(key)).filter((role) => role !== undefined);
  return (
    <div
      role="row"
      aria-rowindex={index + 2}
      aria-selected={chosen}
      tabIndex={focusable ? 0 : -1}
      data-account={row.id}
      onClick={onOpen}
      onKeyDown={(event) => event.key === "Enter" && onOpen()}
      style={{ top, height: ROW }}
      className={`${COLUMNS} absolute inset-x-0 cursor-pointer items-center border-b border-l-4 border-b-line pr-[18px] pl-[14px] -outline-offset-2 ${
        chosen ? "border-l-brass bg-paper" : "border-l-transparent hover:bg-linen"
      }`}
    >
      <span role="gridcell" className="min-w-0 pr-2">
        <span
          className={`block truncate text-read leading-tight font-semibold ${row.state === "active" ? "" : "text-ink2"}`}
        >
          {row.name}
        </span>
        <span className="block truncate text-xs leading-tight text-ink2">
          {row.state === "active" ? row.email : `${row.state} · ${row.email}`}
        </span>
      </span>
      <span role="gridcell" className="flex min-w-0 items-center gap-[3px] text-xs text-ink2">
        {held.slice(0, 3).map((role) => (
          <RoleCloth key={role.key} cloth={role.cloth} size={13} />
        ))}
        <span className="ml-1 truncate">
          {row.keyholder ? "Keyholder" : held.length > 1 ? `${held.length} roles` : held[0]?.name}
        </span>
      </span>
      <span role="gridcell" className="truncate pr-1 text-xs text-ink2">
        {row.groups.join(", ")}
      </span>
      <span role="gridcell" className="figures text-xs">
        {since(row.last_seen)}
      </span>
    </div>
  );
}
