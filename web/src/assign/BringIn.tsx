// Bringing in a list of people: a look at what each row would do, then all of it or nothing.
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, ProblemError, type Shapes } from "../api/client";
import { ForeseenWords } from "../shared/changes/Foreseen";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { RolePicker } from "../shared/pickers";
import { accessChanged } from "../shared/query";
import { count } from "../shared/time";
import { Button, ErrorNotice, INPUT, Labelled } from "../shared/ui";

export function BringIn({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog open={open} onClose={onClose} title="Bring in a list" size="large">
      {open && <Form onClose={onClose} />}
    </Dialog>
  );
}

type Asked = Shapes["ImportInputRequest"];

function useImport() {
  return useMutation({
    mutationFn: (body: Asked) => answer(api.POST("/api/accounts/import", { body })),
    onSuccess: (told) => (told.done ? accessChanged() : undefined),
  });
}

function Form({ onClose }: { onClose: () => void }) {
  const [text, setText] = useState("");
  const [roles, setRoles] = useState<Record<string, string>>({});
  const [invite, setInvite] = useState(true);
  const look = useImport();
  const bring = useImport();
  const told = look.data;
  const asked: Asked = { text, role_map: roles, invite, apply: false };
  const unmapped = Object.entries(told?.unmapped ?? {});
  const words = [...new Set([...Object.keys(roles), ...unmapped.map(([word]) => word)])];

  function mapped(word: string, role: string) {
    const next = { ...roles, [word]: role };
    setRoles(next);
    look.mutate({ ...asked, role_map: next });
  }

  if (bring.data)
    return (
      <div>
        <p role="status" className="text-sm">
          {count(bring.data.new, "account")} made, {bring.data.changed} changed, {bring.data.same} left as
          they were.
        </p>
        <DialogButtons>
          <Button look="main" onClick={onClose}>
            Done
          </Button>
        </DialogButtons>
      </div>
    );
  return (
    <div>
      <Labelled
        label="The table"
        hint="Columns name and email, and if you like language, groups and roles; several groups or roles with | between them. Commas or semicolons."
      >
        {(id, by) => (
          <>
            <input
              type="file"
              accept=".csv,text/csv,text/plain"
              aria-label="A file"
              className="mb-1.5 text-sm"
              onChange={async (event) => {
                const file = event.target.files?.[0];
                if (!file) return;
                const read = await file.text();
                setText(read);
                look.mutate({ ...asked, text: read });
              }}
            />
            <textarea
              id={id}
              aria-describedby={by}
              rows={5}
              value={text}
              onChange={(event) => setText(event.target.value)}
              placeholder={"name,email,groups,roles\nAda Sund,ada@post.example,Pilots,Pilot"}
              className={`${INPUT} font-mono text-xs`}
            />
          </>
        )}
      </Labelled>
      <Button onClick={() => look.mutate(asked)} disabled={text.trim() === "" || look.isPending}>
        Look what it would do
      </Button>
      <ErrorNotice error={look.error} />
      {words.length > 0 && (
        <fieldset className="mt-3">
          <legend className="mb-1 text-sm font-semibold">Which of our roles is</legend>
          {words.map((word) => (
            <div key={word} className="mb-1 grid grid-cols-[200px_260px] items-center gap-3 text-sm">
              <span className="truncate">“{word}”</span>
              <RolePicker
                value={roles[word]}
                none={word in roles ? "No role" : "Not said yet"}
                onPick={(role) => mapped(word, role)}
              />
            </div>
          ))}
        </fieldset>
      )}
      {told && <Told told={told} />}
      {bring.error && (
        <p role="alert" className="mt-2 text-sm text-bar">
          {bring.error instanceof ProblemError ? bring.error.problem.detail : String(bring.error)}
        </p>
      )}
      <div className="mt-4 flex items-center gap-3">
        <label className="flex flex-1 items-center gap-2 text-sm">
          <input type="checkbox" checked={invite} onChange={(event) => setInvite(event.target.checked)} />
          Send an invitation to those who are new
        </label>
        <Button onClick={onClose}>Cancel</Button>
        <Button
          look="main"
          disabled={
            !told ||
            told.faulty > 0 ||
            unmapped.length > 0 ||
            bring.isPending ||
            told.new + told.changed === 0
          }
          onClick={() => bring.mutate({ ...asked, apply: true })}
        >
          Bring them in
        </Button>
      </div>
    </div>
  );
}

const MOST = 100;
const OUTCOMES = { new: "new", changed: "added to", same: "as it is" };

function Told({ told }: { told: Shapes["ImportShape"] }) {
  return (
    <div className="mt-3" aria-live="polite">
      <p className="figures text-sm font-semibold">
        {told.new} new, {told.changed} added to, {told.same} as they are
        {told.faulty > 0 ? `, ${count(told.faulty, "fault")}` : ""}
      </p>
      {told.foreseen && <ForeseenWords told={told.foreseen} />}
      {told.faults.length > 0 && (
        <ul className="mt-1 max-h-[140px] overflow-y-auto text-sm text-bar">
          {told.faults.slice(0, MOST).map((fault) => (
            <li key={`${fault.line} ${fault.column} ${fault.message}`}>
              Line {fault.line}
              {fault.column ? `, ${fault.column}` : ""}: {fault.message}
            </li>
          ))}
        </ul>
      )}
      <ul className="mt-1 max-h-[190px] overflow-y-auto">
        {told.rows.slice(0, MOST).map((row) => (
          <li
            key={row.line}
            className="grid grid-cols-[44px_1fr_1fr_90px_1fr] gap-2 border-b border-linen2 py-0.5 text-xs"
          >
            <span className="figures text-ink2">{row.line}</span>
            <span className="truncate font-semibold">{row.name}</span>
            <span className="truncate text-ink2">{row.email}</span>
            <span>{OUTCOMES[row.outcome]}</span>
            <span className="truncate text-ink2">{[...row.groups, ...row.roles].join(", ")}</span>
          </li>
        ))}
      </ul>
    </div>
  );
}
