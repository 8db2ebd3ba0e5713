// Locks on the page one works on: who closed what and why, closing and opening.
import { useMutation } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { answer, api, ProblemError, type Shapes } from "../api/client";
import { AskAccess } from "../shared/AskAccess";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { TextField } from "../shared/fields";
import { keys } from "../shared/keys";
import { accessChanged, queryClient } from "../shared/query";
import { day } from "../shared/time";
import { Button, ErrorNotice, INPUT, Labelled } from "../shared/ui";
import { useCatalogue } from "../shared/useRoles";
import type { Page } from "./useDesk";

export type Lock = Shapes["LockShape"];

async function changed(node: string) {
  await Promise.all([queryClient.invalidateQueries({ queryKey: keys.page(node) }), accessChanged()]);
}

function useOpenLock(node: string) {
  return useMutation({
    mutationFn: (lock: string) => answer(api.DELETE("/api/locks/{lock}", { params: { path: { lock } } })),
    onSettled: () => changed(node),
  });
}

/** Who closed something, since when and why: "locked by Odile Varga, 4 Apr: being counted". */
export function lockWords({ by, at, why }: Lock): string {
  return `locked${by ? ` by ${by}` : ""}, ${day(at)}${why ? `: ${why}` : ""}`;
}

/** The lock of the whole page, of one of its fields or of one of its parts. */
export function lockOf(page: Page, part: { field?: string; component?: string } = {}): Lock | undefined {
  return page.locks.find(
    (lock) => lock.field === (part.field ?? null) && lock.component === (part.component ?? null),
  );
}

/** What stands above a page that is locked: by whom and why, with the way to have it opened. */
export function LockedPage({ page, looks }: { page: Page; looks: boolean }) {
  const lock = lockOf(page);
  const open = useOpenLock(page.id);
  const [asking, ask] = useState(false);
  if (!lock) return null;
  const words = lockWords(lock);
  return (
    <div
      role="status"
      className="mb-3 flex items-center gap-3 rounded border-l-[3px] border-ink2 bg-linen2 px-3 py-1.5 text-sm"
    >
      <span className="min-w-0 flex-1">{words.charAt(0).toUpperCase() + words.slice(1)}</span>
      {!looks && lock.may_open && (
        <Button disabled={open.isPending} onClick={() => open.mutate(lock.id)}>
          Open it
        </Button>
      )}
      {!looks && !lock.may_open && <Button onClick={() => ask(true)}>Ask for it to be opened</Button>}
      <AskAccess
        asked={asking ? { action: "edit", node: page.id } : null}
        words="edit this page"
        onClose={() => ask(false)}
      />
      <ErrorNotice error={open.error} />
    </div>
  );
}

/** The locks of a page in a list, each to be opened by whoever may. */
export function LockList({ page, looks }: { page: Page; looks: boolean }) {
  const open = useOpenLock(page.id);
  const names = usePartNames(page);
  if (page.locks.length === 0) return <p className="text-sm text-ink2">Nothing</p>;
  return (
    <>
      <ul aria-label="Locked here" className="text-read">
        {page.locks.map((lock) => (
          <li key={lock.id} className="flex items-start gap-2 border-b border-line py-1.5">
            <span className="min-w-0 flex-1 leading-snug">
              <span className="block font-semibold">{names(lock)}</span>
              <span className="block text-xs text-ink2">{lockWords(lock)}</span>
            </span>
            {lock.may_open && !looks && (
              <Button
                look="quiet"
                aria-label={`Open the lock: ${names(lock)}`}
                disabled={open.isPending}
                onClick={() => open.mutate(lock.id)}
              >
                Open
              </Button>
            )}
          </li>
        ))}
      </ul>
      <ErrorNotice error={open.error} />
    </>
  );
}

/** What a lock closes, as a line of a list: the page, a field, a part by its kind and place. */
function usePartNames(page: Page): (part: { field: string | null; component: string | null }) => string {
  const components = useCatalogue().data?.components ?? [];
  return ({ field, component }) => {
    if (field) return page.fields.find(({ key }) => key === field)?.name ?? field;
    const at = page.components.findIndex(({ id }) => id === component);
    const kind = page.components[at]?.kind;
    if (component) return `${components.find(({ key }) => key === kind)?.name ?? "A part"}, part ${at + 1}`;
    return "The page";
  };
}

type LockItProps = { page: Page; chosen: string | null; open: boolean; onClose: () => void };

/** Close the page, a field or a part, with a word for whoever meets it; `chosen` is the part that is chosen. */
export function LockIt({ page, chosen, open, onClose }: LockItProps) {
  return (
    <Dialog open={open} onClose={onClose} title={`Lock something on ${page.title}`}>
      {open && <LockForm page={page} chosen={chosen} onClose={onClose} />}
    </Dialog>
  );
}

function LockForm({ page, chosen, onClose }: Omit<LockItProps, "open">) {
  const [what, setWhat] = useState(chosen ? `component ${chosen}` : "page");
  const [why, setWhy] = useState("");
  const names = usePartNames(page);
  const lock = useMutation({
    mutationFn: () => {
      const [part = "", id = ""] = what.split(" ");
      const body = { node: page.id, why, ...(part === "page" ? {} : { [part]: id }) };
      return answer(api.POST("/api/locks", { body }));
    },
    onSuccess: async () => {
      await changed(page.id);
      onClose();
    },
  });
  const problem = lock.error instanceof ProblemError ? lock.error : null;
  const parts = [
    ...page.fields.map(({ key }) => ({ key: `field ${key}`, field: key, component: null })),
    ...page.components.map(({ id }) => ({ key: `component ${id}`, field: null, component: id })),
  ].filter(
    ({ field, component }) => !lockOf(page, { field: field ?? undefined, component: component ?? undefined }),
  );

  function submit(event: FormEvent) {
    event.preventDefault();
    lock.mutate();
  }

  return (
    <form onSubmit={submit}>
      <Labelled
        label="What is closed"
        hint="To everyone who may not open locks here."
        error={problem?.at("/node") ?? problem?.at("/component") ?? problem?.at("/field")}
      >
        {(id, by) => (
          <select
            id={id}
            aria-describedby={by}
            value={what}
            onChange={(event) => setWhat(event.target.value)}
            className={INPUT}
          >
            {!lockOf(page) && <option value="page">The page</option>}
            {parts.map((part) => (
              <option key={part.key} value={part.key}>
                {names(part)}
              </option>
            ))}
          </select>
        )}
      </Labelled>
      <TextField
        label="Why"
        hint="Whoever meets the lock reads it."
        error={problem?.at("/why")}
        value={why}
        max={200}
        onChange={setWhy}
      />
      {problem && !problem.problem.errors && (
        <p role="alert" className="text-sm text-bar">
          {problem.problem.detail}
        </p>
      )}
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button type="submit" look="main" disabled={lock.isPending}>
          Lock it
        </Button>
      </DialogButtons>
    </form>
  );
}
