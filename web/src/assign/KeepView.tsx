// Keeping the filters, columns and order of the roster under a name.
import { type FormEvent, useState } from "react";
import { ProblemError } from "../api/client";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { Button, INPUT, Labelled } from "../shared/ui";
import { useKeepView } from "../shared/useAccounts";

export function KeepView({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog open={open} onClose={onClose} title="Keep this view">
      <Form onClose={onClose} />
    </Dialog>
  );
}

function Form({ onClose }: { onClose: () => void }) {
  const [name, setName] = useState("");
  const keep = useKeepView();
  const error = keep.error instanceof ProblemError ? keep.error : null;

  function submit(event: FormEvent) {
    event.preventDefault();
    keep.mutate({ name, query: window.location.search.slice(1) }, { onSuccess: onClose });
  }

  return (
    <form onSubmit={submit}>
      <Labelled
        label="Name"
        error={error ? (error.at("/name") ?? error.problem.detail) : undefined}
        hint="Only you see it. A view that has this name already is replaced."
      >
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
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button type="submit" look="main" disabled={keep.isPending}>
          Keep it
        </Button>
      </DialogButtons>
    </form>
  );
}
