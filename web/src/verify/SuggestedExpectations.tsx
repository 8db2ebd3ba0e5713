// What a role was made for, seen from its board: each line that holds now is recorded by one click.
import { useState } from "react";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { useRecordExpectation, useSuggested } from "../shared/expectations/useExpectations";
import { Button, Empty, ErrorNotice, INPUT, Labelled, Loading } from "../shared/ui";
import { useRoles } from "../shared/useRoles";
import { Sentence } from "./Sentence";

type Props = { open: boolean; onClose: () => void };

export function SuggestedExpectations({ open, onClose }: Props) {
  return (
    <Dialog open={open} onClose={onClose} title="What roles were made for">
      {open && <Suggestions onClose={onClose} />}
    </Dialog>
  );
}

function Suggestions({ onClose }: { onClose: () => void }) {
  const roles = useRoles().data ?? [];
  const [role, setRole] = useState("");
  return (
    <>
      <Labelled label="Role" hint="What holds of its holders now, and is not recorded yet.">
        {(id, by) => (
          <select
            id={id}
            aria-describedby={by}
            value={role}
            onChange={(event) => setRole(event.target.value)}
            className={INPUT}
          >
            <option value="">Choose a role</option>
            {roles.map(({ key, name }) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
          </select>
        )}
      </Labelled>
      {role && <Of role={role} />}
      <DialogButtons>
        <Button onClick={onClose}>Close</Button>
      </DialogButtons>
    </>
  );
}

function Of({ role }: { role: string }) {
  const found = useSuggested(role);
  const record = useRecordExpectation();
  if (found.error) return <ErrorNotice error={found.error} again={found.refetch} />;
  if (!found.data) return <Loading what="what it was made for" />;
  if (found.data.length === 0)
    return <Empty title="Nothing more">All that its board says is recorded, or nobody holds it.</Empty>;
  return (
    <>
      <ErrorNotice error={record.error} />
      <ul className="max-h-[46vh] overflow-y-auto">
        {found.data.map(({ question, expect, sentence, parts }) => (
          <li key={sentence} className="flex items-center gap-3 border-b border-linen2 py-1.5 text-read">
            <span className="min-w-0 flex-1">
              <Sentence parts={parts} />
            </span>
            <Button
              disabled={record.isPending}
              aria-label={`Record: ${sentence}`}
              onClick={() =>
                record.mutate({ ...question, expect, note: "" } as Parameters<typeof record.mutate>[0])
              }
            >
              Record it
            </Button>
          </li>
        ))}
      </ul>
    </>
  );
}
