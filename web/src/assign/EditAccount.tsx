// Changing who an account is: name and language at once, the address once it is confirmed there.
import { type FormEvent, useState } from "react";
import { ProblemError } from "../api/client";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { LANGUAGES } from "../shared/languages";
import { Picker } from "../shared/Picker";
import { Button, INPUT, Labelled } from "../shared/ui";
import { type AccountData, useChangeAccount } from "../shared/useAccounts";

type EditProps = { open: boolean; onClose: () => void; data: AccountData; tag: string };

export function EditAccount({ open, onClose, ...rest }: EditProps) {
  return (
    <Dialog open={open} onClose={onClose} title={`Change ${rest.data.account.name}`}>
      {open && <Form onClose={onClose} {...rest} />}
    </Dialog>
  );
}

function Form({ onClose, data, tag }: Omit<EditProps, "open">) {
  const { account: row } = data;
  const [began] = useState(tag);
  const [who, setWho] = useState({
    name: row.name,
    email: row.email,
    language: data.language,
    telephone: data.telephone,
  });
  const change = useChangeAccount(row.id, began);
  const problem = change.error instanceof ProblemError ? change.error : null;
  const fields = [
    { key: "name", label: "Name", hint: undefined },
    {
      key: "email",
      label: "E-mail address",
      hint: "A new address counts once it is confirmed there; until then this one stays.",
    },
    { key: "telephone", label: "Telephone", hint: undefined },
  ] as const;

  function submit(event: FormEvent) {
    event.preventDefault();
    change.mutate(who, { onSuccess: onClose });
  }

  return (
    <form onSubmit={submit} noValidate>
      {fields.map(({ key, label, hint }) => (
        <Labelled key={key} label={label} hint={hint} error={problem?.at(`/${key}`)}>
          {(id, by) => (
            <input
              id={id}
              aria-describedby={by}
              value={who[key]}
              onChange={(event) => setWho({ ...who, [key]: event.target.value })}
              className={INPUT}
            />
          )}
        </Labelled>
      ))}
      <Labelled label="Language">
        {(id) => (
          <Picker
            id={id}
            what="language"
            choices={LANGUAGES}
            value={who.language}
            onPick={(language) => setWho({ ...who, language: language || "en" })}
          />
        )}
      </Labelled>
      {problem && !problem.problem.errors && (
        <p role="alert" className="text-sm text-bar">
          {problem.problem.detail}
        </p>
      )}
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button type="submit" look="main" disabled={change.isPending}>
          Save
        </Button>
      </DialogButtons>
    </form>
  );
}
