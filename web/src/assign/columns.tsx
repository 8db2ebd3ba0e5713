// The columns of the roster: what each shows, how it is sorted, and how wide it is.
import { Hourglass, MapPin } from "lucide-react";
import type { ReactNode } from "react";
import { RoleCloth } from "../cloth/RoleCloth";
import { Tip } from "../cloth/Tip";
import { day, since } from "../shared/time";
import type { RosterRow, Sort } from "../shared/useAccounts";
import type { Role } from "../shared/useRoles";
import { noteWords } from "./notes";

export type Column = {
  key: string;
  name: string;
  sort?: Sort;
  width: string;
  cell: (row: RosterRow, roles: Map<string, Role>) => ReactNode;
};

export const COLUMNS: Column[] = [
  {
    key: "roles",
    name: "Roles",
    width: "minmax(86px,150px)",
    cell: (row, roles) => <Roles row={row} roles={roles} />,
  },
  {
    key: "groups",
    name: "Groups",
    width: "minmax(64px,1fr)",
    cell: (row) => <Quiet>{row.groups.join(", ")}</Quiet>,
  },
  { key: "state", name: "State", sort: "state", width: "76px", cell: (row) => <Quiet>{row.state}</Quiet> },
  {
    key: "seen",
    name: "Seen",
    sort: "seen",
    width: "50px",
    cell: (row) => <Quiet>{since(row.last_seen)}</Quiet>,
  },
  {
    key: "ends",
    name: "Ends",
    sort: "ends",
    width: "124px",
    cell: (row) => <Quiet>{row.ends ? `until ${day(row.ends)}` : ""}</Quiet>,
  },
  {
    key: "made",
    name: "Made",
    sort: "made",
    width: "80px",
    cell: (row) => <Quiet>{day(row.made_at)}</Quiet>,
  },
  { key: "notes", name: "Worth a look", width: "minmax(110px,170px)", cell: (row) => <Notes row={row} /> },
];

export const SHOWN_FIRST = ["roles", "groups", "seen", "ends", "notes"];
export const NARROW = ["roles", "groups", "seen"];

/** The columns that an address names, in their order; those shown at first where it names none. */
export function columnsNamed(named: string): Column[] {
  const keys = named ? named.split(",") : SHOWN_FIRST;
  return COLUMNS.filter(({ key }) => keys.includes(key));
}

/** The address's value after one column is shown or left out; empty for those shown at first. */
export function withColumn(named: string, key: string, on: boolean): string {
  const keys = new Set(named ? named.split(",") : SHOWN_FIRST);
  if (on) keys.add(key);
  else keys.delete(key);
  const next = COLUMNS.map((column) => column.key).filter((one) => keys.has(one));
  return next.join() === SHOWN_FIRST.join() ? "" : next.join() || "none";
}

function Quiet({ children }: { children: ReactNode }) {
  return <span className="figures block truncate text-xs text-ink2">{children}</span>;
}

const MOST_CLOTHS = 3;

function Roles({ row, roles }: { row: RosterRow; roles: Map<string, Role> }) {
  if (row.keyholder) return <Quiet>Keyholder</Quiet>;
  const held = row.roles.flatMap((one) => {
    const role = roles.get(one.key);
    return role ? [{ ...one, role }] : [];
  });
  const [first] = held;
  if (!first) return null;
  const narrow = held.some(({ somewhere }) => somewhere);
  const words = held
    .map(({ role, somewhere, ends }) =>
      [role.name, somewhere && "only somewhere", ends && `until ${day(ends)}`].filter(Boolean).join(", "),
    )
    .join("; ");
  return (
    <Tip text={words}>
      <span className="flex min-w-0 items-center gap-[3px] text-xs text-ink2">
        {held.slice(0, MOST_CLOTHS).map(({ role }) => (
          <RoleCloth key={role.key} cloth={role.cloth} size={13} />
        ))}
        <span className="ml-1 truncate">{held.length > 1 ? `${held.length} roles` : first.role.name}</span>
        {narrow && <MapPin size={12} className="shrink-0 text-ink3" role="img" aria-label="only somewhere" />}
        {held.some(({ ends }) => ends) && (
          <Hourglass size={12} className="shrink-0 text-ink3" role="img" aria-label="for a time" />
        )}
      </span>
    </Tip>
  );
}

function Notes({ row }: { row: RosterRow }) {
  return (
    <span className="flex gap-1 overflow-hidden">
      {noteWords(row).map((words) => (
        <span
          key={words}
          className="rounded-[3px] bg-[#f6e6c4] px-1.5 text-tiny font-semibold whitespace-nowrap text-ink"
        >
          {words}
        </span>
      ))}
    </span>
  );
}
