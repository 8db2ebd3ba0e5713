// Groups: the tree of them, and the page of the one that is open.
import { type FormEvent, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { ProblemError } from "../api/client";
import { RoleCloth } from "../cloth/RoleCloth";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { GroupPicker } from "../shared/pickers";
import { useDuty } from "../shared/session";
import { useTreeRows } from "../shared/tree/treeRows";
import { Button, Empty, ErrorNotice, INPUT, Labelled, Loading } from "../shared/ui";
import { type Group, useGroups, useMakeGroup } from "../shared/useAccounts";
import { useRoleMap } from "../shared/useRoles";
import { GroupPage } from "./GroupPage";
import { RosterHead } from "./RosterHead";

export function GroupsPlace() {
  const group = useParams().group ?? "";
  const groups = useGroups();
  const [making, make] = useState(false);
  const mayMake = useDuty("roles.assign");
  const [words, setWords] = useState("");
  const all = groups.data ?? [];
  return (
    <>
      <section
        aria-label="Groups"
        className="flex w-[430px] shrink-0 flex-col border-r border-line bg-linen2 pt-[30px]"
      >
        <div className="px-[18px]">
          <RosterHead narrow groups={groups.data?.length}>
            {mayMake && <Button onClick={() => make(true)}>New group</Button>}
          </RosterHead>
        </div>
        <div className="mt-2 mb-2 px-[18px]">
          <input
            aria-label="Part of a group’s name"
            value={words}
            onChange={(event) => setWords(event.target.value)}
            placeholder="Part of a name"
            className={INPUT}
          />
        </div>
        {groups.error && <ErrorNotice error={groups.error} again={groups.refetch} />}
        {groups.isPending && <Loading what="the groups" />}
        {groups.data && all.length === 0 && (
          <Empty title="There is no group yet">
            A group is a team: what is given to it reaches everyone in it. Make the first one.
          </Empty>
        )}
        <GroupTree
          key={String(words !== "")}
          all={nested(all, words)}
          chosen={group}
          opened={words ? 99 : 2}
        />
      </section>
      {group ? (
        <GroupPage key={group} group={group} />
      ) : (
        <Empty title="No group is open">Choose one to see who is in it and what it is given.</Empty>
      )}
      <NewGroup open={making} onClose={() => make(false)} beneath={group} />
    </>
  );
}

type Row = { id: string; parent: string | null; group: Group };

/** Groups parents first, those found by name with what is above them. */
export function nested(groups: Group[], words: string): Row[] {
  const wanted = words.trim().toLowerCase();
  const byKey = new Map(groups.map((group) => [group.key, group]));
  const kept = new Set<string>();
  for (const group of groups) {
    if (!group.name.toLowerCase().includes(wanted)) continue;
    for (let up: Group | undefined = group; up && !kept.has(up.key); up = byKey.get(up.parent ?? ""))
      kept.add(up.key);
  }
  const rows: Row[] = [];
  const beneath = new Map<string, Group[]>();
  for (const group of groups)
    beneath.set(group.parent ?? "", [...(beneath.get(group.parent ?? "") ?? []), group]);
  function walk(parent: string) {
    for (const group of beneath.get(parent) ?? []) {
      if (kept.has(group.key)) rows.push({ id: group.key, parent: group.parent, group });
      walk(group.key);
    }
  }
  walk("");
  return rows;
}

function GroupTree({ all, chosen, opened }: { all: Row[]; chosen: string; opened: number }) {
  const { rows, set, move } = useTreeRows(all, opened);
  const navigate = useNavigate();
  const roles = useRoleMap();
  const at = Math.max(
    rows.findIndex(({ node }) => node.id === chosen),
    0,
  );

  function go(index: number) {
    const row = rows[index];
    if (!row) return;
    navigate(`/assign/groups/${row.node.id}`);
    requestAnimationFrame(() =>
      document.querySelector<HTMLElement>(`[data-group="${row.node.id}"]`)?.focus(),
    );
  }

  return (
    <div
      role="tree"
      aria-label="Groups"
      className="min-h-0 flex-1 overflow-y-auto"
      onKeyDown={(event) => {
        const next = move(event.key, at);
        if (next === null) return;
        event.preventDefault();
        go(next);
      }}
    >
      {rows.map(({ node, depth, branch, open }, index) => (
        <div
          key={node.id}
          role="treeitem"
          aria-level={depth + 1}
          aria-expanded={branch ? open : undefined}
          aria-selected={node.id === chosen}
          tabIndex={index === at ? 0 : -1}
          data-group={node.id}
          onClick={() => go(index)}
          style={{ paddingLeft: 14 + depth * 18 }}
          className={`flex h-[38px] cursor-pointer items-center gap-1.5 border-b border-l-4 border-b-line pr-[18px] -outline-offset-2 ${
            node.id === chosen ? "border-l-brass bg-paper" : "border-l-transparent hover:bg-linen"
          }`}
        >
          <button
            type="button"
            tabIndex={-1}
            aria-hidden="true"
            className={`w-4 text-micro text-ink3 ${branch ? "" : "invisible"}`}
            onClick={(event) => {
              event.stopPropagation();
              set(node.id, !open);
            }}
          >
            {open ? "▼" : "▶"}
          </button>
          <span className="min-w-0 flex-1 truncate text-read font-semibold">{node.group.name}</span>
          {node.group.roles?.slice(0, 4).map((role) => (
            <RoleCloth key={role} cloth={roles.get(role)?.cloth} size={13} />
          ))}
          <span className="figures w-8 text-right text-xs text-ink2">{node.group.members ?? ""}</span>
        </div>
      ))}
    </div>
  );
}

function NewGroup({ open, onClose, beneath }: { open: boolean; onClose: () => void; beneath: string }) {
  return (
    <Dialog open={open} onClose={onClose} title="New group">
      {open && <Form onClose={onClose} beneath={beneath} />}
    </Dialog>
  );
}

function Form({ onClose, beneath }: { onClose: () => void; beneath: string }) {
  const [name, setName] = useState("");
  const [parent, setParent] = useState(beneath);
  const make = useMakeGroup();
  const navigate = useNavigate();
  const problem = make.error instanceof ProblemError ? make.error : null;

  function submit(event: FormEvent) {
    event.preventDefault();
    make.mutate(
      { name, parent: parent || null },
      {
        onSuccess: (group) => {
          onClose();
          navigate(`/assign/groups/${group.key}`);
        },
      },
    );
  }

  return (
    <form onSubmit={submit}>
      <Labelled label="Name" error={problem ? (problem.at("/name") ?? problem.problem.detail) : undefined}>
        {(id, by) => (
          <input
            id={id}
            aria-describedby={by}
            value={name}
            onChange={(event) => setName(event.target.value)}
            className={INPUT}
          />
        )}
      </Labelled>
      <Labelled label="Inside" hint="Its members are members of every group above it.">
        {(id, by) => (
          <GroupPicker id={id} describedBy={by} value={parent} none="No other group" onPick={setParent} />
        )}
      </Labelled>
      <p className="text-sm text-ink2">Nobody is in it yet, so nothing changes for anybody.</p>
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button type="submit" look="main" disabled={make.isPending}>
          Make group
        </Button>
      </DialogButtons>
    </form>
  );
}
