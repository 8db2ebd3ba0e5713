// A role's name, description and cloth: they decide nothing, so they are saved at once.
import { useState } from "react";
import { ProblemError, type Shapes } from "../api/client";
import { COLOURS, PATTERNS } from "../cloth/colours";
import { RoleCloth } from "../cloth/RoleCloth";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { Button, Chip, ErrorNotice, INPUT, Labelled } from "../shared/ui";
import { type Role, sameCloth, useChangeRole } from "../shared/useRoles";

type EditProps = { open: boolean; onClose: () => void; role: Role; roles: Role[] };

export function EditRole({ open, onClose, role, roles }: EditProps) {
  return (
    <Dialog open={open} onClose={onClose} title={`Name and cloth of ${role.name}`}>
      <EditForm role={role} roles={roles} onClose={onClose} />
    </Dialog>
  );
}

/** What is typed stays while the role is read anew. */
function EditForm({ onClose, role, roles }: Omit<EditProps, "open">) {
  const [name, setName] = useState(role.name);
  const [description, setDescription] = useState(role.description);
  const [cloth, setCloth] = useState(role.cloth);
  const [start, setStart] = useState(role.start as Part[] | null);
  const change = useChangeRole(role);
  const error = change.error instanceof ProblemError ? change.error : null;
  const alike = sameCloth({ key: role.key, cloth }, roles);
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        change.mutate({ name, description, ...cloth, start }, { onSuccess: onClose });
      }}
    >
      <Labelled label="Name" error={error?.at("/name")}>
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
      <Labelled
        label="Description"
        error={error?.at("/description")}
        hint="Whom the role is for, in a sentence or two."
      >
        {(id, by) => (
          <textarea
            id={id}
            aria-describedby={by}
            rows={2}
            value={description}
            onChange={(event) => setDescription(event.target.value)}
            className={INPUT}
          />
        )}
      </Labelled>
      <Choices
        label="Colour"
        choices={Object.keys(COLOURS)}
        chosen={cloth.colour}
        cloth={(colour) => ({ ...cloth, colour })}
        onChoose={setCloth}
      />
      <Choices
        label="Pattern"
        choices={PATTERNS}
        chosen={cloth.pattern}
        cloth={(pattern) => ({ ...cloth, pattern })}
        onChoose={setCloth}
      />
      <p role="status" className="min-h-[20px] text-xs text-ink2">
        {alike && `${alike.name} has the same cloth; choose another to tell them apart.`}
      </p>
      <StartParts start={start} onChange={setStart} />
      {!error?.problem.errors?.length && <ErrorNotice error={change.error} />}
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button type="submit" look="main" disabled={change.isPending}>
          Save
        </Button>
      </DialogButtons>
    </form>
  );
}

type Part = NonNullable<NonNullable<Shapes["PatchedRoleChangeInputRequest"]["start"]>>[number];
const PARTS: { key: Part; name: string }[] = [
  { key: "waits", name: "Waits for you" },
  { key: "came_back", name: "Came back" },
  { key: "asked_of_me", name: "Asked of you" },
  { key: "asked", name: "What you asked for" },
  { key: "drafts", name: "Your drafts" },
  { key: "left_off", name: "Where you left off" },
  { key: "ends_soon", name: "Ends soon" },
  { key: "of_late", name: "Of late, around your pages" },
];

type StartProps = { start: Part[] | null; onChange: (start: Part[] | null) => void };

/** What holders see at the start of the desk; they stand there in the order in which they are chosen. */
function StartParts({ start, onChange }: StartProps) {
  const turn = (part: Part) => {
    const on = start ?? [];
    const next = on.includes(part) ? on.filter((one) => one !== part) : [...on, part];
    onChange(next.length > 0 ? next : null);
  };
  return (
    <fieldset className="mb-2">
      <legend className="mb-1 text-sm font-semibold">At the start of the desk, in this order</legend>
      <div className="flex flex-wrap gap-1.5">
        {PARTS.map(({ key, name }) => (
          <Chip key={key} on={start?.includes(key) ?? false} onClick={() => turn(key)}>
            {start?.includes(key) ? `${start.indexOf(key) + 1} ` : ""}
            {name}
          </Chip>
        ))}
      </div>
      <p className="mt-1 text-xs text-ink2">
        {start
          ? "Only these are shown, unless another role shows more."
          : "Nothing said: everything is shown."}
      </p>
    </fieldset>
  );
}

type ChoicesProps = {
  label: string;
  choices: readonly string[];
  chosen: string;
  cloth: (choice: string) => Role["cloth"];
  onChoose: (cloth: Role["cloth"]) => void;
};

function Choices({ label, choices, chosen, cloth, onChoose }: ChoicesProps) {
  return (
    <fieldset className="mb-2">
      <legend className="mb-1 text-sm font-semibold">{label}</legend>
      <div className="flex gap-1">
        {choices.map((choice) => (
          <label
            key={choice}
            title={choice}
            className={`cursor-pointer rounded border p-1.5 has-focus-visible:outline-2 ${
              choice === chosen ? "border-rod bg-chosen" : "border-transparent hover:bg-linen2"
            }`}
          >
            <input
              type="radio"
              name={label}
              className="sr-only"
              checked={choice === chosen}
              onChange={() => onChoose(cloth(choice))}
            />
            <RoleCloth cloth={cloth(choice)} size={18} />
            <span className="sr-only">{choice}</span>
          </label>
        ))}
      </div>
    </fieldset>
  );
}
