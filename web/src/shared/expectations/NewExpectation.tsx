// Record an expectation: who, may or may not, what, where.
import { useState } from "react";
import { ProblemError } from "../../api/client";
import { Dialog, DialogButtons } from "../Dialog";
import { WhomPicker } from "../pickers";
import { BranchPicker } from "../tree/BranchPicker";
import { Button, INPUT, Labelled } from "../ui";
import { useActionsOnPages } from "../useWords";
import { useExpectationGroups, useRecordExpectation } from "./useExpectations";

/** What an expectation is about, where it is begun from something said. */
export type About = {
  who: string;
  expect: "allow" | "deny";
  action: string;
  /** The kind of content it is narrowed to. */
  type?: { key: string; plural: string };
};

const VISITORS: About = { who: "visitor", expect: "deny", action: "edit" };

type NewProps = { open: boolean; onClose: () => void; about?: About };

export function NewExpectation({ open, onClose, about = VISITORS }: NewProps) {
  return (
    <Dialog open={open} onClose={onClose} title="New expectation">
      {open && <Form onClose={onClose} about={about} />}
    </Dialog>
  );
}

function Form({ onClose, about }: { onClose: () => void; about: About }) {
  const [who, setWho] = useState(about.who);
  const [expect, setExpect] = useState(about.expect);
  const actions = useActionsOnPages();
  const [action, setAction] = useState(about.action);
  const [where, setWhere] = useState<string[]>([]);
  const [beneath, setBeneath] = useState(true);
  const [note, setNote] = useState("");
  const [group, setGroup] = useState("");
  const groups = useExpectationGroups().data?.groups ?? [];
  const record = useRecordExpectation();
  const problem = record.error instanceof ProblemError ? record.error : null;
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        const said = { who, expect, action, place: where[0], beneath, type: about.type?.key, note, group };
        record.mutate(questionOf(said), { onSuccess: onClose });
      }}
    >
      <Labelled label="Who">
        {(id) => (
          <WhomPicker id={id} value={who} onPick={setWho} first={{ key: "visitor", name: "Visitors" }} />
        )}
      </Labelled>
      <div className="grid grid-cols-2 gap-3">
        <Labelled label="Expected">
          {(id) => (
            <select
              id={id}
              value={expect}
              onChange={(e) => setExpect(e.target.value as "allow" | "deny")}
              className={INPUT}
            >
              <option value="deny">may not</option>
              <option value="allow">may</option>
            </select>
          )}
        </Labelled>
        <Labelled label="Action" error={problem?.at("/action")}>
          {(id) => (
            <select
              id={id}
              value={action}
              onChange={(event) => setAction(event.target.value)}
              className={INPUT}
            >
              {actions.map(({ key, name }) => (
                <option key={key} value={key}>
                  {name}
                </option>
              ))}
            </select>
          )}
        </Labelled>
      </div>
      <Labelled label="Page or branch" error={problem?.at("/node") ?? problem?.at("/branch")}>
        {(id) => <BranchPicker id={id} chosen={where} onChange={(ids) => setWhere(ids.slice(-1))} />}
      </Labelled>
      <label className="mb-3 flex items-center gap-2 text-sm">
        <input
          type="checkbox"
          className="size-4 accent-rod"
          checked={beneath}
          onChange={(e) => setBeneath(e.target.checked)}
        />
        and everything beneath{about.type ? `, ${about.type.plural} only` : ""}
      </label>
      <Labelled label="Note" error={problem?.at("/note")}>
        {(id) => (
          <input id={id} value={note} onChange={(event) => setNote(event.target.value)} className={INPUT} />
        )}
      </Labelled>
      <Labelled
        label="Group"
        error={problem?.at("/group")}
        hint="A client’s contract, a policy of the house: one there is, or a new name."
      >
        {(id, by) => (
          <>
            <input
              id={id}
              aria-describedby={by}
              list={`${id}-groups`}
              value={group}
              onChange={(event) => setGroup(event.target.value)}
              className={INPUT}
            />
            <datalist id={`${id}-groups`}>
              {groups.map(({ id, name }) => (
                <option key={id} value={name} />
              ))}
            </datalist>
          </>
        )}
      </Labelled>
      {problem && !problem.problem.errors && (
        <p role="alert" className="text-sm text-bar">
          {problem.problem.detail}
        </p>
      )}
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button type="submit" look="main" disabled={record.isPending}>
          Record it
        </Button>
      </DialogButtons>
    </form>
  );
}

type Said = {
  /** "visitor", or what it ranges over and its id: "role pilot". */
  who: string;
  expect: "allow" | "deny";
  action: string;
  place: string | undefined;
  beneath: boolean;
  type: string | undefined;
  note: string;
  group: string;
};

const RANGES = { role: "holders_of", group: "members_of", account: "account" };

/** What is recorded of what was filled in: a branch with all beneath it, or a single page. */
export function questionOf({ who, expect, action, place, beneath, type, note, group }: Said) {
  const [kind, id] = who.split(" ") as [keyof typeof RANGES | "visitor", string | undefined];
  return {
    ...(kind === "visitor" ? { account: null } : { [RANGES[kind]]: id }),
    action,
    ...(place ? (beneath ? { branch: place } : { node: place }) : {}),
    ...(place && beneath && type ? { types: [type] } : {}),
    expect,
    note,
    group,
  };
}
