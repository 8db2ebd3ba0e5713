// Give a role to an account: which, where, and until when. It is staged, not applied.
import { useState } from "react";
import { ProblemError } from "../api/client";
import { BranchPicker } from "../shared/BranchPicker";
import { useStage } from "../shared/changes/changeSet";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { Button, INPUT, Labelled } from "../shared/ui";
import { useRoles } from "../shared/useRoles";

type GiveProps = { open: boolean; onClose: () => void; account: string; name: string };

export function GiveRole({ open, onClose, account, name }: GiveProps) {
  return (
    <Dialog open={open} onClose={onClose} title={`Give ${name} a role`}>
      {open && <Form account={account} onClose={onClose} />}
    </Dialog>
  );
}

function Form({ account, onClose }: { account: string; onClose: () => void }) {
  const roles = useRoles().data?.filter((role) => !role.baseline) ?? [];
  const [role, setRole] = useState("");
  const [branches, setBranches] = useState<string[]>([]);
  const [starts, setStarts] = useState("");
  const [ends, setEnds] = useState("");
  const stage = useStage();
  const problem = stage.error instanceof ProblemError ? stage.error : null;
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        stage.mutate(
          [
            {
              kind: "give-role",
              role,
              to: { kind: "account", id: account },
              scope: branches.length ? { branches } : {},
              starts: midnight(starts),
              ends: midnight(ends),
            },
          ],
          { onSuccess: onClose },
        );
      }}
    >
      <Labelled label="Role" error={problem?.at("/role") && "Choose a role."}>
        {(id, by) => (
          <select
            id={id}
            aria-describedby={by}
            value={role}
            onChange={(e) => setRole(e.target.value)}
            className={INPUT}
          >
            <option value="">Choose…</option>
            {roles.map(({ key, name }) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
          </select>
        )}
      </Labelled>
      <Labelled label="Where" hint="Without a branch it holds everywhere.">
        {(id) => <BranchPicker id={id} chosen={branches} onChange={setBranches} />}
      </Labelled>
      <div className="grid grid-cols-2 gap-3">
        <Labelled label="From" hint="Without a date, at once.">
          {(id) => (
            <input
              id={id}
              type="date"
              value={starts}
              onChange={(e) => setStarts(e.target.value)}
              className={INPUT}
            />
          )}
        </Labelled>
        <Labelled label="Until" error={problem?.at("/ends")} hint="Without a date, with no end.">
          {(id, by) => (
            <input
              id={id}
              aria-describedby={by}
              type="date"
              value={ends}
              onChange={(e) => setEnds(e.target.value)}
              className={INPUT}
            />
          )}
        </Labelled>
      </div>
      {problem && !problem.problem.errors && (
        <p role="alert" className="text-sm text-bar">
          {problem.problem.detail}
        </p>
      )}
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button type="submit" look="main" disabled={stage.isPending || !role}>
          Stage it
        </Button>
      </DialogButtons>
    </form>
  );
}

function midnight(date: string): string | null {
  return date ? new Date(`${date}T00:00`).toISOString() : null;
}
