// The roster: filters that live in the address, kept views, columns, and the table of accounts.
import { useState } from "react";
import { Link, useSearchParams } from "react-router";
import { RoleCloth } from "../cloth/RoleCloth";
import { Menu, MenuItem, MenuSeparator } from "../shared/Menu";
import { GroupPicker, RolePicker } from "../shared/pickers";
import { useDuty } from "../shared/session";
import { Button, Chip, Empty, ErrorNotice, INPUT, Loading } from "../shared/ui";
import {
  type RosterFilter,
  type Show,
  type Sort,
  useDropView,
  useGroups,
  useKeptViews,
  useRoster,
} from "../shared/useAccounts";
import { useOpenHere } from "../shared/useOpenHere";
import { useParam } from "../shared/useParam";
import { useRoleMap } from "../shared/useRoles";
import { BringIn } from "./BringIn";
import type { Selected } from "./chosen";
import { COLUMNS, columnsNamed, NARROW, withColumn } from "./columns";
import { KeepView } from "./KeepView";
import { RosterHead } from "./RosterHead";
import { RosterTable } from "./RosterTable";

const SHOWS: { show: Show; name: string }[] = [
  { show: "desk", name: "Staff and clients" },
  { show: "visitors", name: "Visitors" },
  { show: "ends", name: "Ends soon" },
  { show: "look", name: "Worth a look" },
  { show: "invited", name: "Invited" },
  { show: "disabled", name: "Disabled" },
];

type RosterProps = {
  chosen: string;
  narrow: boolean;
  selected: Selected;
  onSelect: (selected: Selected) => void;
};

export function Roster({ chosen, narrow, selected, onSelect }: RosterProps) {
  const [params, setParams] = useSearchParams();
  const [search, setSearch] = useParam("search");
  const given = (name: string) => params.get(name) ?? "";
  const filter: RosterFilter = {
    search,
    role: given("role"),
    group: given("group"),
    state: given("state"),
    show: given("show") as Show,
  };
  const sort = (given("sort") || "name") as Sort;
  const down = given("down") === "true";
  const roster = useRoster(filter, { sort, down });
  const [bringing, bring] = useOpenHere("bring in a list");
  const mayMake = useDuty("accounts.invite");
  const groups = useGroups().data;
  const [first] = roster.data?.pages ?? [];
  const rows = roster.data?.pages.flatMap((page) => page.results) ?? [];
  const total = first?.count ?? 0;
  const shown = SHOWS.filter(({ show }) => !narrow || show === "desk" || show === "ends" || show === "look");

  function set(changed: Record<string, string>) {
    const next = new URLSearchParams(params);
    for (const [name, value] of Object.entries(changed)) {
      if (value) next.set(name, value);
      else next.delete(name);
    }
    setParams(next, { replace: true });
  }

  return (
    <section
      aria-label="Roster"
      className={`flex flex-col pt-[30px] ${
        narrow ? "w-[520px] shrink-0 border-r border-line bg-linen2 max-[1180px]:w-[430px]" : "min-w-0 flex-1"
      }`}
    >
      <div className="px-[18px]">
        <RosterHead narrow={narrow} accounts={total} groups={groups?.length}>
          {!narrow && (
            <a
              href={`/api/accounts/export?${params}`}
              className="rounded-[5px] border border-line2 bg-paper px-[11px] py-[5px] text-sm font-medium hover:bg-white"
            >
              As a table
            </a>
          )}
          {!narrow && mayMake && (
            <>
              <Button onClick={() => bring(true)}>Bring in a list</Button>
              <Link
                to="/assign/new"
                className="rounded-[5px] border border-rod bg-rod px-[11px] py-[5px] text-sm font-medium text-paper hover:bg-rod2"
              >
                Take somebody on
              </Link>
            </>
          )}
        </RosterHead>
      </div>
      <div className="mb-2 flex flex-wrap items-center gap-[7px] px-[18px]">
        <label className={narrow ? "w-[190px]" : "w-[230px]"}>
          <span className="sr-only">Name, address or group</span>
          <input
            value={search}
            onChange={(event) => setSearch(event.target.value)}
            placeholder="Name, address or group"
            className={INPUT}
          />
        </label>
        {shown.map(({ show, name }) => (
          <Chip
            key={show}
            on={filter.show === show}
            onClick={() => set({ show: filter.show === show ? "" : show })}
          >
            {name} <span className="figures">{first?.counts[show as Exclude<Show, "">] ?? ""}</span>
          </Chip>
        ))}
        <Held filter={filter} onSet={set} />
        <span className="flex-1" />
        {!narrow && <ColumnsMenu columns={given("columns")} onChange={(columns) => set({ columns })} />}
        {!narrow && <ViewsMenu onTake={(query) => setParams(new URLSearchParams(query))} />}
      </div>
      {roster.error && <ErrorNotice error={roster.error} again={roster.refetch} />}
      {roster.isPending && <Loading what="the roster" />}
      {roster.data && rows.length === 0 && (
        <Empty title="Nobody is like that">
          <Button onClick={() => setParams({})}>Show everybody</Button>
        </Empty>
      )}
      {rows.length > 0 && (
        <RosterTable
          rows={rows}
          total={total}
          columns={narrow ? columnsNamed(NARROW.join()) : columnsNamed(given("columns"))}
          chosen={chosen}
          selected={selected}
          onSelect={(next) => onSelect({ ...next, filter, matching: total })}
          sort={sort}
          down={down}
          onSort={(by) => set({ sort: by === "name" ? "" : by, down: by === sort && !down ? "true" : "" })}
          onAll={() => onSelect({ ids: new Set(), all: true, matching: total, filter })}
          more={() => roster.hasNextPage && !roster.isFetchingNextPage && roster.fetchNextPage()}
        />
      )}
      <BringIn open={bringing} onClose={() => bring(false)} />
    </section>
  );
}

type HeldProps = { filter: RosterFilter; onSet: (changed: Record<string, string>) => void };

/** The role and the group that accounts are found by. */
function Held({ filter, onSet }: HeldProps) {
  const role = useRoleMap().get(filter.role);
  const group = useGroups().data?.find(({ key }) => key === filter.group);
  return (
    <>
      <RolePicker
        value={filter.role}
        onPick={(key) => onSet({ role: key })}
        none="Any role"
        trigger={
          <Chip on={filter.role !== ""} aria-label={role ? `Role: ${role.name}` : "Any role"}>
            {role ? <RoleCloth cloth={role.cloth} size={12} /> : null}
            {role?.name ?? "Role"}
          </Chip>
        }
      />
      <GroupPicker
        value={filter.group}
        onPick={(key) => onSet({ group: key })}
        none="Any group"
        trigger={
          <Chip on={filter.group !== ""} aria-label={group ? `Group: ${group.name}` : "Any group"}>
            {group?.name ?? "Group"}
          </Chip>
        }
      />
    </>
  );
}

function ColumnsMenu({ columns, onChange }: { columns: string; onChange: (columns: string) => void }) {
  const shown = columnsNamed(columns).map(({ key }) => key);
  return (
    <Menu trigger={<Chip>Columns</Chip>} label="Columns shown">
      {COLUMNS.map(({ key, name }) => (
        <MenuItem
          key={key}
          onSelect={(event) => {
            event.preventDefault();
            onChange(withColumn(columns, key, !shown.includes(key)));
          }}
        >
          <span aria-hidden="true" className="inline-block w-5">
            {shown.includes(key) ? "●" : ""}
          </span>
          {name}
          <span className="sr-only">{shown.includes(key) ? ", shown" : ", not shown"}</span>
        </MenuItem>
      ))}
    </Menu>
  );
}

function ViewsMenu({ onTake }: { onTake: (query: string) => void }) {
  const views = useKeptViews().data ?? [];
  const drop = useDropView();
  const [keeping, keep] = useState(false);
  return (
    <>
      <Menu trigger={<Chip>Views</Chip>} label={views.length ? "Views that you kept" : undefined}>
        {views.map((view) => (
          <MenuItem key={view.id} onSelect={() => onTake(view.query)}>
            {view.name}
          </MenuItem>
        ))}
        {views.length > 0 && <MenuSeparator />}
        <MenuItem onSelect={() => keep(true)}>Keep this view</MenuItem>
        {views.map((view) => (
          <MenuItem
            key={view.id}
            onSelect={() => drop.mutate(view.id)}
            className="px-2 py-1 text-xs text-ink2"
          >
            Forget {view.name}
          </MenuItem>
        ))}
      </Menu>
      <KeepView open={keeping} onClose={() => keep(false)} />
    </>
  );
}
