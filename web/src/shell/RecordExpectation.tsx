// Record, while standing in, that the answer one sees is the one there should be.
import { useState } from "react";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { useExpectThis } from "../shared/expectations/useExpectations";
import { Button, ErrorNotice, INPUT, Labelled } from "../shared/ui";
import { useActionsOnPages } from "../shared/useWords";
import { useXrayPage } from "../shared/useXray";
import { useWhy } from "../shared/Why";

export type Expected =
  | { account: string | null }
  | { holders_of: string }
  | { roles: unknown; groups: string[]; own: boolean };

type RecordProps = {
  open: boolean;
  onClose: () => void;
  node: string;
  /** Of whom: an account, null for a visitor, the holders of a role, or somebody made up. */
  of: Expected;
  name: string;
};

export function RecordExpectation({ open, ...rest }: RecordProps) {
  return (
    <Dialog open={open} onClose={rest.onClose} title="Expect this">
      {open && <Form {...rest} />}
    </Dialog>
  );
}

function Form({ onClose, node, of, name }: Omit<RecordProps, "open">) {
  const actions = useActionsOnPages();
  const [action, setAction] = useState("edit");
  const [expect, setExpect] = useState<"allow" | "deny" | null>(null);
  const [note, setNote] = useState("");
  const title = useXrayPage(node, true).data?.title ?? "this page";
  const why = useWhy({ action, node }).data;
  const record = useExpectThis();
  const present = why ? (why.allow ? "allow" : "deny") : "deny";
  const wanted = expect ?? present;
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        record.mutate({ ...of, action, node, expect: wanted, note }, { onSuccess: onClose });
      }}
    >
      <p className="mb-3 text-lead">
        {name}{" "}
        <select
          aria-label="May or may not"
          value={wanted}
          onChange={(event) => setExpect(event.target.value as "allow" | "deny")}
          className="rounded border border-line2 bg-white px-1.5 py-[2px] font-semibold"
        >
          <option value="deny">may not</option>
          <option value="allow">may</option>
        </select>{" "}
        <select
          aria-label="Action"
          value={action}
          onChange={(event) => {
            setAction(event.target.value);
            setExpect(null);
          }}
          className="rounded border border-line2 bg-white px-1.5 py-[2px] font-semibold"
        >
          {actions.map(({ key, name }) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
        </select>{" "}
        <strong>{title}</strong>.
      </p>
      {why && (
        <p className="mb-3 text-sm text-ink2">
          {present === wanted
            ? "That is how it stands now."
            : "That is not how it stands now: it will be shown as broken."}
        </p>
      )}
      <Labelled label="Note" hint="Why it should be so, for whoever finds it broken.">
        {(id, by) => (
          <input
            id={id}
            aria-describedby={by}
            value={note}
            onChange={(e) => setNote(e.target.value)}
            className={INPUT}
          />
        )}
      </Labelled>
      <ErrorNotice error={record.error} />
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button type="submit" look="main" disabled={record.isPending}>
          Record it
        </Button>
      </DialogButtons>
    </form>
  );
}
