// Changing who an account is: name, language and profile at once, the address once it is confirmed there.
import { type FormEvent, useState } from "react";
import { ProblemError } from "../api/client";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { Button } from "../shared/ui";
import { type AccountData, useChangeAccount } from "../shared/useAccounts";
import { WhoFields, whoOf } from "../shared/who";

type EditProps = { open: boolean; onClose: () => void; data: AccountData; tag: string };

export function EditAccount({ open, onClose, ...rest }: EditProps) {
  return (
    <Dialog open={open} onClose={onClose} title={`Change ${rest.data.account.name}`}>
      {open && <Form onClose={onClose} {...rest} />}
    </Dialog>
  );
}

function Form({ onClose, data, tag }: Omit<EditProps, "open">) {
  const [began] = useState(tag);
  const [who, setWho] = useState(whoOf(data.who));
  const change = useChangeAccount(data.account.id, began);
  const problem = change.error instanceof ProblemError ? change.error : null;

  function submit(event: FormEvent) {
    event.preventDefault();
    change.mutate(who, { onSuccess: onClose });
  }

  return (
    <form onSubmit={submit} noValidate>
      <WhoFields
        who={who}
        onChange={setWho}
        profile={data.who.profile}
        problem={problem}
        hint="A new address counts once it is confirmed there; until then this one stays."
      />
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button type="submit" look="main" disabled={change.isPending}>
          Save
        </Button>
      </DialogButtons>
    </form>
  );
}
