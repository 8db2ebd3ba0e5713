// Making a role: from nothing, as a copy of another, or building on another.

import { useState } from "react";
import { useNavigate } from "react-router";
import { ProblemError } from "../api/client";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { Picker } from "../shared/Picker";
import { roleChoices } from "../shared/pickers";
import { useDuty } from "../shared/session";
import { Button, INPUT, Labelled } from "../shared/ui";
import { type Beginning, type Role, useMakeRole, useStarters } from "../shared/useRoles";

type Start = "nothing" | "copy_of" | "builds_on" | "starter";
const STARTS: { start: Start; name: string; says: string }[] = [
  { start: "nothing", name: "From nothing", says: "It gives nothing until you say so." },
  {
    start: "copy_of",
    name: "As a copy of",
    says: "It says the same now, of fields and components too, and goes its own way from here.",
  },
  {
    start: "builds_on",
    name: "Building on",
    says: "It gives what the other gives; later changes flow into it.",
  },
  {
    start: "starter",
    name: "As one to begin with",
    says: "It says what comes with every new site, and can be put back to that.",
  },
];

type NewRoleProps = {
  open: boolean;
  onClose: () => void;
  roles: Role[];
  from?: { start: Start; role: string };
};

export function NewRole({ open, onClose, ...rest }: NewRoleProps) {
  return (
    <Dialog open={open} onClose={onClose} title="New role">
      <NewRoleForm onClose={onClose} {...rest} />
    </Dialog>
  );
}

function NewRoleForm({ onClose, roles, from }: Omit<NewRoleProps, "open">) {
  const others = roles.filter((role) => role.baseline === "");
  const [name, setName] = useState("");
  const [start, setStart] = useState<Start>(from?.start ?? "nothing");
  const [other, setOther] = useState(from?.role ?? others[0]?.key ?? "");
  const [limits, bringLimits] = useState(true);
  const mayLimit = useDuty("limits.set");
  const starters = useStarters(start === "starter").data ?? [];
  const [starter, setStarter] = useState("");
  const make = useMakeRole();
  const navigate = useNavigate();
  const error = make.error instanceof ProblemError ? make.error : null;
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        make.mutate(beginningOf(name, start, start === "starter" ? starter : other, limits && mayLimit), {
          onSuccess: (role) => {
            onClose();
            navigate(`/define/${role.key}`);
          },
        });
      }}
    >
      <Labelled
        label="Name"
        error={error ? (error.at("/name") ?? error.problem.detail) : undefined}
        hint="A key and a cloth are found for it."
      >
        {(id, by) => (
          <input
            id={id}
            aria-describedby={by}
            value={name}
            onChange={(e) => setName(e.target.value)}
            className={INPUT}
          />
        )}
      </Labelled>
      <fieldset>
        <legend className="mb-1 text-sm font-semibold">It starts</legend>
        {STARTS.map((one) => (
          <label key={one.start} className="flex items-baseline gap-2 py-1 text-sm">
            <input
              type="radio"
              name="start"
              checked={start === one.start}
              onChange={() => setStart(one.start)}
            />
            <span>
              {one.name}
              {start === one.start && <span className="block text-xs text-ink2">{one.says}</span>}
            </span>
          </label>
        ))}
      </fieldset>
      {start === "starter" && (
        <Labelled
          label="Which one"
          hint={starters.find((one) => one.name === starter)?.description}
          error={error?.at("/starter")}
        >
          {(id, by) => (
            <Picker
              id={id}
              describedBy={by}
              what="role to begin with"
              value={starter}
              onPick={(picked) => {
                if (name === "" || name === starter) setName(picked);
                setStarter(picked);
              }}
              choices={starters.map((one) => ({ key: one.name, name: one.name }))}
            />
          )}
        </Labelled>
      )}
      {(start === "copy_of" || start === "builds_on") && (
        <Labelled label="Which role" error={error?.at(`/${start}`)}>
          {(id, by) => (
            <Picker
              id={id}
              describedBy={by}
              what="role"
              value={other}
              onPick={setOther}
              choices={roleChoices(others)}
            />
          )}
        </Labelled>
      )}
      {start === "copy_of" && mayLimit && (
        <label className="mt-2 flex items-baseline gap-2 text-sm">
          <input type="checkbox" checked={limits} onChange={(event) => bringLimits(event.target.checked)} />
          Bring the limits set on it too
        </label>
      )}
      {start === "copy_of" && !mayLimit && (
        <p className="mt-2 text-sm text-ink2">
          Limits set on it are not brought: that is for those who set limits.
        </p>
      )}
      <p className="mt-2 text-sm text-ink2">
        Nobody holds it until you give it, so nothing changes for anybody.
      </p>
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button
          type="submit"
          look="main"
          disabled={make.isPending || (start === "starter" && starter === "")}
        >
          Make role
        </Button>
      </DialogButtons>
    </form>
  );
}

/** What is asked for: how a role begins, and of a copy whether it has the limits of the other. */
export function beginningOf(name: string, start: Start, other: string, limits: boolean): Beginning {
  if (start === "nothing") return { name, with_limits: false };
  if (start === "starter") return { name, starter: other as Beginning["starter"], with_limits: false };
  return start === "copy_of"
    ? { name, copy_of: other, with_limits: limits }
    : { name, builds_on: other, with_limits: false };
}
