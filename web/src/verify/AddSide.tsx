// Somebody more to put beside the others: a person, a role, a group, a visitor; now, with what is staged, or on a date.
import { useState } from "react";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { GroupPicker, PersonPicker, RolePicker } from "../shared/pickers";
import { useSession } from "../shared/session";
import { Chips, type When, WhenChoice, Wrote } from "../shared/standin/Choices";
import { momentIn, momentWritten } from "../shared/standin/moment";
import { Button, Chip, Labelled } from "../shared/ui";

type Kind = "account" | "roles" | "groups" | "visitor";
const KINDS: { key: Kind; name: string }[] = [
  { key: "account", name: "A person" },
  { key: "roles", name: "A role" },
  { key: "groups", name: "A group" },
  { key: "visitor", name: "A visitor" },
];

export function AddSide({ name, onAdd }: { name: string; onAdd: (side: string) => void }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button onClick={() => setOpen(true)}>{name}</Button>
      <Dialog open={open} onClose={() => setOpen(false)} title="Beside the others">
        {open && (
          <Choice
            onClose={() => setOpen(false)}
            onAdd={(side) => {
              setOpen(false);
              onAdd(side);
            }}
          />
        )}
      </Dialog>
    </>
  );
}

function Choice({ onAdd, onClose }: { onAdd: (side: string) => void; onClose: () => void }) {
  const me = useSession().data?.actor;
  const [kind, setKind] = useState<Kind>("account");
  const [key, setKey] = useState("");
  const [own, setOwn] = useState(false);
  const [when, setWhen] = useState<When>("now");
  const [moment, setMoment] = useState(() => momentWritten(30));
  const madeUp = kind === "roles" || kind === "groups";

  function add() {
    const whom = kind === "visitor" ? "visitor" : `${kind}:${key}`;
    const at = when === "at" ? `at=${momentIn(moment)}` : when === "staged" ? "staged" : "";
    onAdd([whom, madeUp && own ? "own" : "", at].filter(Boolean).join(";"));
  }

  return (
    <>
      <Chips label="Whom">
        {KINDS.map((one) => (
          <Chip
            key={one.key}
            on={kind === one.key}
            onClick={() => {
              setKind(one.key);
              setKey("");
            }}
          >
            {one.name}
          </Chip>
        ))}
        {me && (
          <Chip
            onClick={() => {
              setKind("account");
              setKey(me.id);
            }}
            on={kind === "account" && key === me.id}
          >
            Yourself
          </Chip>
        )}
      </Chips>
      {kind !== "visitor" && (
        <Labelled label="Name">
          {(id) => {
            const field = { id, value: key, onPick: setKey };
            if (kind === "roles") return <RolePicker {...field} />;
            if (kind === "groups") return <GroupPicker {...field} />;
            return <PersonPicker {...field} name={key === me?.id ? me.name : undefined} />;
          }}
        </Labelled>
      )}
      {madeUp && <Wrote own={own} onChange={setOwn} />}
      <WhenChoice when={when} onWhen={setWhen} moment={moment} onMoment={setMoment} />
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button
          look="main"
          disabled={(kind !== "visitor" && key === "") || (when === "at" && moment === "")}
          onClick={add}
        >
          Add
        </Button>
      </DialogButtons>
    </>
  );
}
