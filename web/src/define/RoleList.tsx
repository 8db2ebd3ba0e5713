// The roles in the administrator's order, each with its cloth and how many hold it.
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { ProblemError } from "../api/client";
import { Dialog, DialogButtons } from "../app/Dialog";
import { count, day } from "../app/time";
import { Button, INPUT, Labelled } from "../app/ui";
import { type Role, useMakeRole } from "../app/useRoles";
import { RoleCloth } from "../cloth/RoleCloth";

export function RoleList({ roles, chosen }: { roles: Role[]; chosen: string }) {
  const [making, make] = useState(false);
  const names = new Map(roles.map((role) => [role.key, role.name]));
  return (
    <nav
      aria-label="Roles"
      className="w-[236px] shrink-0 max-[1180px]:w-[198px] overflow-y-auto border-r border-line bg-linen2 pt-[30px] pb-6"
    >
      <div className="mb-2 flex items-center justify-between px-[15px] pl-[18px]">
        <h2 className="text-[14.5px]">Roles</h2>
        <Button onClick={() => make(true)}>New role</Button>
      </div>
      <ul>
        {roles.map((role) => (
          <li key={role.key}>
            <Link
              to={`/define/${role.key}`}
              aria-current={role.key === chosen ? "page" : undefined}
              className={`flex h-[48.4px] items-center gap-[10px] border-l-4 pr-3 pl-[17px] -outline-offset-2 ${
                role.key === chosen ? "border-brass bg-paper" : "border-transparent hover:bg-linen"
              }`}
            >
              <RoleCloth cloth={role.cloth} size={18} />
              <span className="min-w-0">
                <span className="block truncate text-[13.5px] leading-[1.25] font-semibold">{role.name}</span>
                <span className="block truncate text-xs text-ink2">{note(role, names)}</span>
              </span>
            </Link>
          </li>
        ))}
      </ul>
      <NewRole open={making} onClose={() => make(false)} />
    </nav>
  );
}

function note(role: Role, names: Map<string, string>): string {
  if (role.baseline === "everyone") return "baseline · visitors too";
  if (role.baseline) return `baseline · ${count(role.holders, "account")}`;
  if (role.builds_on) return `builds on ${names.get(role.builds_on)} · ${role.holders}`;
  const parts = [count(role.holders, "holder")];
  if (role.groups) parts.push(count(role.groups, "group"));
  if (role.ends) parts.push(`until ${day(role.ends)}`);
  return parts.join(" · ");
}

function NewRole({ open, onClose }: { open: boolean; onClose: () => void }) {
  const [name, setName] = useState("");
  const make = useMakeRole();
  const navigate = useNavigate();
  const error = make.error instanceof ProblemError ? make.error : null;
  function close() {
    setName("");
    make.reset();
    onClose();
  }
  return (
    <Dialog open={open} onClose={close} title="New role">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          make.mutate(name, {
            onSuccess: (role) => {
              close();
              navigate(`/define/${role.key}`);
            },
          });
        }}
      >
        <Labelled
          label="Name"
          error={error ? (error.at("/name") ?? error.problem.detail) : undefined}
          hint="A key and a cloth are found for it. It gives nothing until you say so."
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
        <DialogButtons>
          <Button onClick={close}>Cancel</Button>
          <Button type="submit" look="main" disabled={make.isPending}>
            Make role
          </Button>
        </DialogButtons>
      </form>
    </Dialog>
  );
}
