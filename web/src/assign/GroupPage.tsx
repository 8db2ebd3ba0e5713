// A group's page: what it is given, who is in it, where it sits.

import { type FormEvent, useState } from "react";
import { ProblemError, type Shapes } from "../api/client";
import {
  type Operation,
  useOperationsTouched,
  useStage,
  useStageGroupEnding,
} from "../shared/changes/changeSet";
import { bothWords, isTold, touchedWords, touchesNobody } from "../shared/changes/impactText";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { Menu, MenuItem, MenuSeparator } from "../shared/Menu";
import { NameLink, NameMenu } from "../shared/NameMenu";
import { GroupPicker, PersonPicker } from "../shared/pickers";
import { useDuty } from "../shared/session";
import { Button, ErrorNotice, INPUT, Labelled, Loading } from "../shared/ui";
import { useGroup, useGroups, useRenameGroup, useRoster } from "../shared/useAccounts";
import { Give, type Giving } from "./Give";
import { GivenList } from "./GivenList";

export function GroupPage({ group }: { group: string }) {
  const page = useGroup(group);
  const [giving, give] = useState<Giving | null>(null);
  const [dialog, show] = useState<"" | "rename" | "move">("");
  const names = new Map(useGroups().data?.map(({ key, name }) => [key, name]));
  const mayGive = useDuty("roles.assign");
  const end = useStageGroupEnding(group);
  if (page.error) return <ErrorNotice error={page.error} again={page.refetch} />;
  if (!page.data) return <Loading what="the group" />;
  const { group: row, given, above, parent } = page.data.data;
  const to = { kind: "group", id: group, name: row.name } as const;
  return (
    <section className="min-w-0 flex-1 overflow-y-auto px-[24px] pt-[30px] pb-8" aria-label={row.name}>
      <header className="flex items-center gap-3">
        <div className="min-w-0 flex-1">
          <div className="flex items-center">
            <h1 className="truncate">{row.name}</h1>
            <NameMenu of={{ group: row.key }} name={row.name} shown />
          </div>
          <p className="truncate text-ink2">
            {above.length > 0
              ? `in ${above.map((key) => names.get(key) ?? key).join(", in ")}`
              : "inside no other group"}
            {parent !== row.parent && ", staged to move"}
          </p>
        </div>
        {mayGive && (
          <Menu trigger={<Button>More</Button>}>
            <MenuItem onSelect={() => show("rename")}>Rename</MenuItem>
            <MenuItem onSelect={() => show("move")}>Move into another group</MenuItem>
            <MenuSeparator />
            <MenuItem onSelect={() => end.mutate()}>Stage its end</MenuItem>
          </Menu>
        )}
      </header>
      <ErrorNotice error={end.error} />
      <h2 className="mt-5 mb-1">Given</h2>
      <GivenList
        given={given}
        onChange={(one) => give({ what: one.role ? "role" : "capability", given: one })}
      />
      {mayGive && (
        <div className="mt-2.5 flex gap-2">
          <Button onClick={() => give({ what: "role" })}>Give a role</Button>
          <Button onClick={() => give({ what: "capability" })}>Give one capability</Button>
        </div>
      )}
      <Give giving={giving} to={to} onClose={() => give(null)} />
      <Members
        group={group}
        direct={row.direct ?? 0}
        members={row.members ?? 0}
        name={row.name}
        mayChange={mayGive}
        staged={page.data.data.staged}
      />
      <Rename
        open={dialog === "rename"}
        onClose={() => show("")}
        group={group}
        name={row.name}
        tag={page.data.tag}
      />
      <Move open={dialog === "move"} onClose={() => show("")} group={group} parent={parent} name={row.name} />
    </section>
  );
}

type MembersProps = {
  group: string;
  name: string;
  direct: number;
  members: number;
  mayChange: boolean;
  /** Whose membership one has staged to change. */
  staged: Shapes["StagedMemberShape"][];
};

function Members({ group, name, direct, members, mayChange, staged }: MembersProps) {
  const roster = useRoster({ search: "", role: "", group, state: "" });
  const stage = useStage();
  const rows = roster.data?.pages.flatMap((page) => page.results) ?? [];

  const coming = staged.filter((one) => one.member && !rows.some(({ id }) => id === one.id));
  const leaving = new Set(staged.filter((one) => !one.member).map(({ id }) => id));

  function member(account: string, on: boolean) {
    stage.mutate([{ kind: "set-member", account, group, member: on }]);
  }

  return (
    <>
      <div className="mt-6 mb-1 flex items-baseline gap-3">
        <h2>Members</h2>
        <span className="figures text-sm text-ink2">
          {direct} in it{members > direct ? `, ${members - direct} through groups in it` : ""}
        </span>
        <span className="flex-1" />
        {mayChange && (
          <PersonPicker onPick={(account) => member(account, true)} trigger={<Button>Add somebody</Button>} />
        )}
      </div>
      <ErrorNotice error={stage.error} />
      {roster.data && rows.length === 0 && <p className="text-sm text-ink2">Nobody is in it yet.</p>}
      <ul>
        {coming.map(({ id, name: who }) => (
          <li key={id} className="flex min-h-[32px] items-center gap-2 border-b border-line text-read">
            <NameLink
              of={{ account: id }}
              name={who}
              className="no-underline! font-semibold hover:underline!"
            />
            <span className="text-xs text-ink2 italic">staged to come in</span>
            <span className="flex-1" />
            {mayChange && (
              <Button look="quiet" aria-label={`Leave ${who} out`} onClick={() => member(id, false)}>
                Leave out
              </Button>
            )}
          </li>
        ))}
        {rows.map((row) => (
          <li key={row.id} className="flex min-h-[32px] items-center gap-2 border-b border-line text-read">
            <NameLink
              of={{ account: row.id }}
              name={row.name}
              className="no-underline! font-semibold hover:underline!"
            />
            <span className="truncate text-xs text-ink2">{row.email}</span>
            <span className="flex-1" />
            {leaving.has(row.id) ? (
              <>
                <span className="text-xs text-ink2 italic">staged to leave</span>
                {mayChange && (
                  <Button look="quiet" aria-label={`Keep ${row.name}`} onClick={() => member(row.id, true)}>
                    Keep
                  </Button>
                )}
              </>
            ) : row.groups.includes(name) ? (
              mayChange && (
                <Button
                  look="quiet"
                  aria-label={`Take out ${row.name}`}
                  onClick={() => member(row.id, false)}
                >
                  Take out
                </Button>
              )
            ) : (
              <span className="text-xs text-ink2">through {row.groups.join(", ")}</span>
            )}
          </li>
        ))}
      </ul>
      {roster.hasNextPage && (
        <Button className="mt-2" onClick={() => roster.fetchNextPage()}>
          Show more
        </Button>
      )}
    </>
  );
}

type RenameProps = { open: boolean; onClose: () => void; group: string; name: string; tag: string };

function Rename({ open, onClose, group, name, tag }: RenameProps) {
  return (
    <Dialog open={open} onClose={onClose} title={`Rename ${name}`}>
      {open && <RenameForm onClose={onClose} group={group} name={name} tag={tag} />}
    </Dialog>
  );
}

function RenameForm({ onClose, group, name, tag }: Omit<RenameProps, "open">) {
  const [next, setNext] = useState(name);
  const [began] = useState(tag);
  const rename = useRenameGroup(group, began);
  const problem = rename.error instanceof ProblemError ? rename.error : null;

  function submit(event: FormEvent) {
    event.preventDefault();
    rename.mutate(next, { onSuccess: onClose });
  }

  return (
    <form onSubmit={submit}>
      <Labelled label="Name" error={problem ? (problem.at("/name") ?? problem.problem.detail) : undefined}>
        {(id, by) => (
          <input
            id={id}
            aria-describedby={by}
            value={next}
            onChange={(event) => setNext(event.target.value)}
            className={INPUT}
          />
        )}
      </Labelled>
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button type="submit" look="main" disabled={rename.isPending}>
          Save
        </Button>
      </DialogButtons>
    </form>
  );
}

type MoveProps = { open: boolean; onClose: () => void; group: string; parent: string | null; name: string };

function Move({ open, onClose, group, parent, name }: MoveProps) {
  return (
    <Dialog open={open} onClose={onClose} title={`Move ${name}`}>
      {open && <MoveForm onClose={onClose} group={group} parent={parent} name={name} />}
    </Dialog>
  );
}

function MoveForm({ onClose, group, parent, name }: Omit<MoveProps, "open">) {
  const [into, setInto] = useState(parent ?? "");
  const stage = useStage();
  const operation: Operation = { kind: "move-group", group, parent: into || null };
  return (
    <div>
      <Labelled
        label="Inside"
        hint="Its members are members of every group above it, and have what those are given."
      >
        {(id, by) => (
          <GroupPicker
            id={id}
            describedBy={by}
            value={into}
            but={[group]}
            none="No other group"
            onPick={setInto}
          />
        )}
      </Labelled>
      <p className="min-h-5 text-sm" aria-live="polite">
        <Moved operation={operation} members={name} />
      </p>
      <ErrorNotice error={stage.error} />
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button
          look="main"
          disabled={stage.isPending}
          onClick={() => stage.mutate([operation], { onSuccess: onClose })}
        >
          Stage it
        </Button>
      </DialogButtons>
    </div>
  );
}

function Moved({ operation, members }: { operation: Operation; members: string }) {
  const touched = useOperationsTouched([operation], true);
  if (touched.error) {
    const problem = touched.error instanceof ProblemError ? touched.error : null;
    return <span className="text-bar">{problem?.problem.detail ?? "It could not be worked out."}</span>;
  }
  if (!touched.data) return <>Counting whom it touches…</>;
  if (!isTold(touched.data)) return <>{bothWords(touched.data)}.</>;
  if (touchesNobody(touched.data)) return <>Nothing changes for anybody in {members}.</>;
  return <span className="first-letter:uppercase">{touchedWords(touched.data)}.</span>;
}
