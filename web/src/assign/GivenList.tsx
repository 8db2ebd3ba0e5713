// What is given to an account or a group, each with what can be done about it.

import { RoleCloth } from "../cloth/RoleCloth";
import { useStage } from "../shared/changes/changeSet";
import { Menu, MenuItem } from "../shared/Menu";
import { NameLink } from "../shared/NameMenu";
import { givenWords, type ScopeNames } from "../shared/scope/scope";
import { useGivenNames } from "../shared/scope/useScopeNames";
import { useDuty } from "../shared/session";
import { count, day } from "../shared/time";
import { Button, ErrorNotice } from "../shared/ui";
import { type Given, useGroups } from "../shared/useAccounts";
import { type Role, useRoleMap } from "../shared/useRoles";

/** `used` tells by role when it last gave them something. */
type ListProps = { given: Given[]; onChange: (given: Given) => void; used?: Record<string, string> };

export function GivenList({ given, onChange, used }: ListProps) {
  const roles = useRoleMap();
  const groups = new Map(useGroups().data?.map((group) => [group.key, group.name]));
  const names = useGivenNames();
  const mayGive = useDuty("roles.assign");
  const stage = useStage();
  if (given.length === 0) return <p className="text-sm text-ink2">Nothing but what everyone has.</p>;
  return (
    <>
      <ul>
        {given.map((one) => (
          <Line
            key={one.id}
            given={one}
            role={roles.get(one.role ?? "")}
            group={one.group ? (groups.get(one.group) ?? one.group) : null}
            names={names}
            used={used && one.role ? (used[one.role] ?? "") : null}
            mayChange={mayGive && one.group === null && one.staged !== "ending"}
            onChange={() => onChange(one)}
            onEnd={() =>
              stage.mutate([
                one.role
                  ? { kind: "take-role", assignment: one.id }
                  : { kind: "take-capability", grant: one.id },
              ])
            }
          />
        ))}
      </ul>
      <ErrorNotice error={stage.error} />
    </>
  );
}

type LineProps = {
  given: Given;
  role: Role | undefined;
  group: string | null;
  names: ScopeNames;
  /** When it was last used, as far as that was noted; null where nobody asks. */
  used: string | null;
  mayChange: boolean;
  onChange: () => void;
  onEnd: () => void;
};

const STAGED = { "": "", new: "staged", changed: "staged to change", ending: "staged to end" };

function Line({ given, role, group, names, used, mayChange, onChange, onEnd }: LineProps) {
  const name = role?.name ?? given.words ?? "";
  return (
    <li className="grid min-h-[38px] grid-cols-[24px_minmax(150px,1.25fr)_minmax(0,1.5fr)_minmax(96px,150px)_44px] items-center gap-2 border-b border-line py-1 text-read">
      {role ? <RoleCloth cloth={role.cloth} size={17} /> : <span className="pl-1 text-ink2">+</span>}
      <span className="leading-tight">
        <strong
          className={`font-semibold first-letter:uppercase ${given.staged === "ending" ? "line-through" : ""}`}
        >
          {name}
        </strong>
        {given.staged && (
          <span className="ml-1.5 inline-flex items-center gap-1 text-xs text-[#75531a]">
            <span className="inline-block size-[7px] rounded-full bg-brass" aria-hidden="true" />
            {STAGED[given.staged]}
          </span>
        )}
        <span className="block text-xs text-ink2">
          {group ? (
            <>
              through <NameLink of={{ group: given.group ?? "" }} name={group} />
            </>
          ) : given.capability ? (
            `one capability, ${given.says}`
          ) : (
            "directly"
          )}
          {used !== null && given.active && (used ? `, used ${day(used)}` : ", no use noted")}
        </span>
      </span>
      <span className="leading-tight text-ink">
        {givenWords(given, names)}
        {given.covers && <span className="figures block text-xs text-ink2">{coversWords(given.covers)}</span>}
      </span>
      <span className="figures text-sm">{when(given)}</span>
      <span className="text-right">
        {mayChange && (
          <Menu
            trigger={
              <Button look="quiet" aria-label={`What to do with ${name}`}>
                …
              </Button>
            }
          >
            <MenuItem onSelect={onChange}>Change where and when</MenuItem>
            <MenuItem onSelect={onEnd}>Take away</MenuItem>
          </Menu>
        )}
      </span>
    </li>
  );
}

/** "6 pages, 41 of media". */
export function coversWords({ pages, media }: { pages: number; media: number }): string {
  const parts = [pages > 0 && count(pages, "page"), media > 0 && `${media} of media`].filter(Boolean);
  return parts.join(", ") || "nothing today";
}

function when(given: Given): string {
  if (!given.active && given.starts && new Date(given.starts) > new Date())
    return `from ${day(given.starts)}`;
  if (given.ends) return `${given.active ? "until" : "ended"} ${day(given.ends)}`;
  return given.starts ? `since ${day(given.starts)}` : "no end";
}
