// Handing out: who may give which roles, where, to whom, and until when.
import { type FormEvent, useState } from "react";
import { ProblemError } from "../api/client";
import { RoleName } from "../cloth/RoleCloth";
import { useStage } from "../shared/changes/changeSet";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { GroupPicker, PersonPicker, RolePicker } from "../shared/pickers";
import { ScopeButton } from "../shared/scope/ScopeButton";
import { EMPTY_SCOPE, givenWords, type Scope } from "../shared/scope/scope";
import { useGivenNames } from "../shared/scope/useScopeNames";
import { useDuty } from "../shared/session";
import { day } from "../shared/time";
import { Button, Chip, Empty, ErrorNotice, Labelled, Loading } from "../shared/ui";
import { useRoleMap } from "../shared/useRoles";
import { coversWords } from "./GivenList";
import { RosterHead } from "./RosterHead";
import { type Delegation, useDelegations } from "./useRequests";
import { Moment } from "./When";

export function DelegationsPlace() {
  const delegations = useDelegations();
  const roles = useRoleMap();
  const names = useGivenNames();
  const mayGive = useDuty("roles.assign");
  const stage = useStage();
  const [editing, edit] = useState<Delegation | "new" | null>(null);
  return (
    <section aria-label="Handing out" className="min-w-0 flex-1 overflow-y-auto px-[18px] pt-[30px] pb-8">
      <RosterHead>
        {mayGive && (
          <Button look="main" onClick={() => edit("new")}>
            Let somebody hand out
          </Button>
        )}
      </RosterHead>
      <p className="mt-2 max-w-[760px] text-sm text-ink2">
        Whoever runs a part of the site can give some roles there to their own people, never more than they
        have themselves.
      </p>
      {delegations.error && <ErrorNotice error={delegations.error} again={delegations.refetch} />}
      {delegations.isPending && <Loading what="who hands out what" />}
      {delegations.data?.length === 0 && (
        <Empty title="Nobody hands anything out">
          Only those who give roles do it now. Let the lead of a pier or a desk do it for their own people.
        </Empty>
      )}
      <ErrorNotice error={stage.error} />
      <ul className="mt-3">
        {delegations.data?.map((one) => (
          <li
            key={one.id}
            className="grid grid-cols-[minmax(150px,1fr)_minmax(160px,1.2fr)_minmax(150px,1.4fr)_minmax(120px,1fr)_110px_130px] items-center gap-3 border-b border-line py-2 text-read"
          >
            <span
              className={`font-semibold first-letter:uppercase ${one.staged === "ending" ? "line-through" : ""}`}
            >
              {one.subject_name}
              {one.staged && (
                <span
                  className="ml-1.5 inline-block size-[7px] rounded-full bg-brass"
                  role="img"
                  aria-label="staged"
                />
              )}
            </span>
            <span className="flex flex-wrap gap-x-3">
              {one.roles.map((key) => {
                const role = roles.get(key);
                return role ? <RoleName key={key} role={role} /> : <span key={key}>{key}</span>;
              })}
            </span>
            <span>
              {givenWords(one, names)}
              <span className="figures block text-xs text-ink2">{coversWords(one.covers)}</span>
            </span>
            <span className="text-sm">{one.receivers_name ? `to ${one.receivers_name}` : "to anyone"}</span>
            <span className="figures text-sm">{one.ends ? `until ${day(one.ends)}` : "no end"}</span>
            <span className="text-right">
              {mayGive && one.staged !== "ending" && (
                <>
                  <Button look="quiet" onClick={() => edit(one)}>
                    Change
                  </Button>
                  <Button
                    look="quiet"
                    onClick={() => stage.mutate([{ kind: "drop-delegation", delegation: one.id }])}
                  >
                    End
                  </Button>
                </>
              )}
            </span>
          </li>
        ))}
      </ul>
      <Dialog
        open={editing !== null}
        onClose={() => edit(null)}
        title={editing === "new" ? "Let somebody hand out" : "Change what is handed out"}
      >
        {editing && <Form given={editing === "new" ? null : editing} onClose={() => edit(null)} />}
      </Dialog>
    </section>
  );
}

type Kind = "role" | "group" | "account";
const KINDS: { kind: Kind; name: string }[] = [
  { kind: "role", name: "Holders of a role" },
  { kind: "group", name: "A group" },
  { kind: "account", name: "One account" },
];

function Form({ given, onClose }: { given: Delegation | null; onClose: () => void }) {
  const [kind, setKind] = useState<Kind>((given?.subject_kind as Kind | undefined) ?? "role");
  const [to, setTo] = useState(given?.subject ?? "");
  const [chosen, choose] = useState<string[]>(given?.roles ?? []);
  const [scope, setScope] = useState<Scope>(given?.scope ?? EMPTY_SCOPE);
  const [receivers, setReceivers] = useState(given?.receivers ?? "");
  const [ends, setEnds] = useState(given?.ends ?? null);
  const roles = useRoleMap();
  const stage = useStage();
  const problem = stage.error instanceof ProblemError ? stage.error : null;

  function submit(event: FormEvent) {
    event.preventDefault();
    const said = { to: { kind, id: to }, roles: chosen, scope, receivers: receivers || null, ends };
    stage.mutate([{ kind: "put-delegation", ...(given ? { delegation: given.id } : {}), ...said }], {
      onSuccess: onClose,
    });
  }

  return (
    <form onSubmit={submit}>
      <fieldset className="mb-2">
        <legend className="mb-1 text-sm font-semibold">Who hands out</legend>
        <div className="mb-1.5 flex gap-1.5">
          {KINDS.map((one) => (
            <Chip
              key={one.kind}
              on={kind === one.kind}
              onClick={() => {
                setKind(one.kind);
                setTo("");
              }}
            >
              {one.name}
            </Chip>
          ))}
        </div>
        {kind === "role" && <RolePicker value={to} onPick={setTo} />}
        {kind === "group" && <GroupPicker value={to} onPick={setTo} />}
        {kind === "account" && <PersonPicker value={to} name={given?.subject_name} onPick={setTo} />}
      </fieldset>
      <fieldset className="mb-3">
        <legend className="mb-1 text-sm font-semibold">Which roles</legend>
        <div className="flex flex-wrap gap-1.5">
          {chosen.map((key) => (
            <Chip key={key} on onClick={() => choose(chosen.filter((one) => one !== key))}>
              {roles.get(key)?.name ?? key}
              <span aria-hidden="true">×</span>
              <span className="sr-only">, leave out</span>
            </Chip>
          ))}
          <RolePicker
            onPick={(key) => choose([...new Set([...chosen, key])])}
            trigger={<Chip>+ role</Chip>}
          />
        </div>
      </fieldset>
      <ScopeButton scope={scope} onChange={setScope} />
      <Labelled label="To members of" hint="Those of groups beneath it too.">
        {(id, by) => (
          <GroupPicker id={id} describedBy={by} value={receivers} none="Anyone" onPick={setReceivers} />
        )}
      </Labelled>
      <Moment label="Until" none="No end" value={ends} onChange={setEnds} />
      {problem && (
        <p role="alert" className="text-sm text-bar">
          {problem.problem.detail}
        </p>
      )}
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button type="submit" look="main" disabled={!to || chosen.length === 0 || stage.isPending}>
          Stage it
        </Button>
      </DialogButtons>
    </form>
  );
}
