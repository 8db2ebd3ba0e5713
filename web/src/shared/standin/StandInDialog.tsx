// Standing in: in which mode, under what, when; and for somebody made up, which roles they hold, where and with whom.
import { type FormEvent, useState } from "react";
import { ProblemError } from "../../api/client";
import { RoleCloth } from "../../cloth/RoleCloth";
import { Dialog, DialogButtons } from "../Dialog";
import { GroupPicker, RolePicker } from "../pickers";
import { ScopeLine } from "../scope/ScopeButton";
import { EMPTY_SCOPE } from "../scope/scope";
import { type Mode, useSession, useStandIn } from "../session";
import { Button, Chip, ErrorNotice } from "../ui";
import { useGroups } from "../useAccounts";
import { useRoleMap } from "../useRoles";
import { Chips, isPast, type When, WhenChoice, Wrote } from "./Choices";
import { momentIn, momentWritten } from "./moment";
import type { MadeUp, Whom } from "./whom";

type Props = {
  open: boolean;
  onClose: () => void;
  whom: Whom;
  name: string;
  when?: When;
  /** Why standing in at once was refused. */
  refused?: unknown;
};

export function StandInDialog({ open, onClose, name, ...rest }: Props) {
  return (
    <Dialog
      open={open}
      onClose={onClose}
      title={name === "yourself" ? "Rehearse as yourself" : `Stand in for ${name}`}
      size="wide"
    >
      {open && <Choice onClose={onClose} {...rest} />}
    </Dialog>
  );
}

function Choice({ onClose, whom: begun, when: first = "now", refused }: Omit<Props, "open" | "name">) {
  const session = useSession().data;
  const [whom, setWhom] = useState(begun);
  const [mode, setMode] = useState<Mode>("look");
  const [when, setWhen] = useState<When>(first);
  const [moment, setMoment] = useState(() => momentWritten(7));
  const standIn = useStandIn();
  const problem = standIn.error instanceof ProblemError ? standIn.error : null;
  const past = when === "at" && isPast(moment);
  const oneself = "account" in whom && whom.account === session?.actor?.id;
  const rehearses = oneself || (mode === "rehearse" && !past);
  const nobody = !("account" in whom) && whom.roles.length === 0 && whom.groups.length === 0;

  function submit(event: FormEvent) {
    event.preventDefault();
    standIn.mutate({
      whom,
      mode: rehearses ? "rehearse" : "look",
      staged: when === "staged",
      at: when === "at" ? momentIn(moment) : undefined,
    });
  }

  return (
    <form onSubmit={submit} noValidate>
      {!("account" in whom) && <Holding whom={whom} onChange={setWhom} />}
      {!oneself && (
        <Chips label="Mode" hint={rehearses ? REHEARSE : LOOK}>
          <Chip on={!rehearses} onClick={() => setMode("look")}>
            Look only
          </Chip>
          <Chip on={rehearses} disabled={past} onClick={() => setMode("rehearse")}>
            Rehearse
          </Chip>
        </Chips>
      )}
      {oneself && <p className="mb-3 text-ink2">{REHEARSE}</p>}
      <WhenChoice
        when={when}
        onWhen={setWhen}
        moment={moment}
        onMoment={setMoment}
        error={problem?.at("/at")}
      />
      {!problem?.at("/at") && <ErrorNotice error={standIn.error ?? (standIn.isIdle ? refused : null)} />}
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button
          type="submit"
          look="main"
          disabled={nobody || (when === "at" && moment === "") || standIn.isPending}
        >
          {oneself ? "Rehearse" : "Stand in"}
        </Button>
      </DialogButtons>
    </form>
  );
}

const LOOK = "You see all that they see. Nothing can be changed.";
const REHEARSE =
  "Do all that could be done, and see what comes of it. Nothing is kept, and nobody else sees any of it.";
/** What somebody made up holds: roles, each where, groups, and whether they wrote everything or nothing. */
function Holding({ whom, onChange }: { whom: MadeUp; onChange: (whom: MadeUp) => void }) {
  const roles = useRoleMap();
  const groups = new Map((useGroups().data ?? []).map(({ key, name }) => [key, name]));
  return (
    <>
      <p className="mb-1 text-sm font-semibold">Somebody who holds</p>
      <ul className="mb-2">
        {whom.roles.map((held, i) => {
          const role = roles.get(held.role);
          const name = role?.name ?? held.role;
          return (
            <li key={held.role} className="flex items-center gap-2.5 border-b border-line py-1.5">
              {role && <RoleCloth cloth={role.cloth} size={16} />}
              <span className="min-w-0 flex-1 truncate font-semibold">{name}</span>
              <ScopeLine
                scope={held.scope}
                label={`Where ${name} is held`}
                onChange={(scope) => onChange({ ...whom, roles: whom.roles.with(i, { ...held, scope }) })}
              />
              <Button
                look="quiet"
                aria-label={`Without ${name}`}
                onClick={() => onChange({ ...whom, roles: whom.roles.filter((one) => one !== held) })}
              >
                ×
              </Button>
            </li>
          );
        })}
        {whom.groups.map((group) => (
          <li key={group} className="flex items-center gap-2.5 border-b border-line py-1.5">
            <span className="min-w-0 flex-1 truncate">
              a member of <span className="font-semibold">{groups.get(group) ?? group}</span>
            </span>
            <Button
              look="quiet"
              aria-label={`Without ${groups.get(group) ?? group}`}
              onClick={() => onChange({ ...whom, groups: whom.groups.filter((one) => one !== group) })}
            >
              ×
            </Button>
          </li>
        ))}
      </ul>
      <div className="mb-3 flex flex-wrap gap-1.5">
        <RolePicker
          onPick={(role) => {
            if (!whom.roles.some((held) => held.role === role))
              onChange({ ...whom, roles: [...whom.roles, { role, scope: EMPTY_SCOPE }] });
          }}
          trigger={<Chip>+ role</Chip>}
        />
        <GroupPicker
          but={whom.groups}
          onPick={(group) => onChange({ ...whom, groups: [...whom.groups, group] })}
          trigger={<Chip>+ group</Chip>}
        />
      </div>
      <Wrote own={whom.own} onChange={(own) => onChange({ ...whom, own })} />
    </>
  );
}
