// Whom to stand in for: a visitor, an account, a role, a member of a group, or several roles together.
import { User } from "lucide-react";
import { type ReactNode, useState } from "react";
import { RoleCloth } from "../cloth/RoleCloth";
import { mayHopeToStandIn, useDuty, useSession, useStandIn } from "../shared/session";
import { StandInDialog } from "../shared/standin/StandInDialog";
import { holderOf, memberOf, VISITOR, type Whom } from "../shared/standin/whom";
import { TextLink } from "../shared/TextLink";
import { Button, Empty, ErrorNotice, INPUT } from "../shared/ui";
import { useGroups, useRoster } from "../shared/useAccounts";
import { useRoleMap, useRoles } from "../shared/useRoles";

const MOST_PEOPLE = 40;
type Somebody = { key: string; name: string; note: string; whom: Whom; mark: ReactNode };
const NOBODY_YET: Whom = { roles: [], groups: [], own: false };

export function StandInSide() {
  const [words, setWords] = useState("");
  const [choosing, choose] = useState<{ name: string; whom: Whom } | null>(null);
  const may = useDuty("impersonate.start");
  const rehearses = useDuty("rehearsal.start");
  const me = useSession().data?.actor;
  const standIn = useStandIn();
  const found = useSomebody(words);
  return (
    <section
      aria-label="Stand in"
      className="flex w-[336px] shrink-0 flex-col border-r border-line bg-linen2 px-[18px] pt-[30px]"
    >
      <h1>Stand in</h1>
      <p className="mt-1 text-ink2">
        See the desk exactly as they do. Nobody’s password is needed, and nothing is kept.
      </p>
      {!may && !rehearses && (
        <Empty title="Closed to you">Ask for a role that lets you stand in for others.</Empty>
      )}
      {rehearses && me && (
        <p className="mt-2">
          <Button onClick={() => choose({ name: "yourself", whom: { account: me.id } })}>
            Rehearse as yourself
          </Button>
        </p>
      )}
      {may && (
        <>
          <label className="mt-3 block">
            <span className="sr-only">An account, a role, a group</span>
            <input
              value={words}
              onChange={(e) => setWords(e.target.value)}
              placeholder="An account, a role, a group"
              className={INPUT}
            />
          </label>
          <p className="mt-2">
            <Button onClick={() => choose({ name: "somebody made up", whom: NOBODY_YET })}>
              Several roles together
            </Button>
          </p>
          <p className="mt-2 text-sm">
            <TextLink to="/side-by-side">Side by side</TextLink>: two or three on the same page, differences
            marked.
          </p>
          <ErrorNotice error={standIn.error} />
          <ul className="mt-2 min-h-0 flex-1 overflow-y-auto pb-6">
            {found.map(({ key, name, note, whom, mark }) => (
              <li key={key} className="flex min-h-[50px] items-center gap-2.5 border-b border-line py-1.5">
                {mark}
                <span className="min-w-0 flex-1 leading-tight">
                  <span className="block truncate font-semibold">{name}</span>
                  <span className="block truncate text-xs text-ink2">{note}</span>
                </span>
                <Button
                  aria-label={`Stand in for ${name}`}
                  onClick={() => standIn.mutate({ whom })}
                  disabled={standIn.isPending}
                >
                  Stand in
                </Button>
                <Button
                  look="quiet"
                  className="px-1!"
                  aria-label={`Stand in for ${name} otherwise`}
                  title="Rehearse, or on a date"
                  onClick={() => choose({ name, whom })}
                >
                  …
                </Button>
              </li>
            ))}
          </ul>
        </>
      )}
      {choosing && <StandInDialog open onClose={() => choose(null)} {...choosing} />}
    </section>
  );
}

/** Everybody whose name has these words in it: a visitor, roles and groups, then accounts. */
function useSomebody(words: string): Somebody[] {
  const me = useSession().data?.actor;
  const roster = useRoster({ search: words, role: "", group: "", state: "active" });
  const byKey = useRoleMap();
  const groups = useGroups().data ?? [];
  const roles = useRoles().data ?? [];
  const people = roster.data?.pages[0]?.results.filter((row) => mayHopeToStandIn(row, me)) ?? [];
  const low = words.trim().toLowerCase();
  const somebody: Somebody[] = [
    { key: "visitor", name: "A visitor", note: "not signed in", whom: VISITOR, mark: <Figure /> },
    ...roles
      .filter(({ baseline }) => baseline === "")
      .map(({ key, name, cloth }) => ({
        key: `role-${key}`,
        name,
        note: "the role alone",
        whom: holderOf(key),
        mark: <RoleCloth cloth={cloth} size={16} />,
      })),
    ...groups.map(({ key, name }) => ({
      key: `group-${key}`,
      name: `A member of ${name}`,
      note: "the group alone",
      whom: memberOf(key),
      mark: <Figure />,
    })),
  ];
  const accounts = people.slice(0, MOST_PEOPLE).map((row): Somebody => {
    const held = row.roles.map(({ key }) => byKey.get(key)).filter((role) => role !== undefined);
    return {
      key: row.id,
      name: row.name,
      note: row.keyholder ? "Keyholder" : held.map((role) => role.name).join(", ") || "signed in only",
      whom: { account: row.id },
      mark: held[0] ? <RoleCloth cloth={held[0].cloth} size={16} /> : <Figure />,
    };
  });
  const others = somebody.filter(({ name }) => name.toLowerCase().includes(low));
  return low === "" ? [...others.slice(0, 1), ...accounts, ...others.slice(1)] : [...others, ...accounts];
}

function Figure() {
  return <User aria-hidden size={16} className="shrink-0 text-ink2" />;
}
