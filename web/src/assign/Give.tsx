// Giving a role or one capability, or changing what was given: what, when and where. It is staged, not applied.
import { type FormEvent, useState } from "react";
import { ProblemError } from "../api/client";
import { type Operation, useOperationsTouched, useStage } from "../shared/changes/changeSet";
import { bothWords, isTold, touchedWords, touchesNobody } from "../shared/changes/impactText";
import { Dialog } from "../shared/Dialog";
import { CapabilityPicker, RolePicker } from "../shared/pickers";
import { Covers, OnlyFor, Where } from "../shared/scope/ScopeEditor";
import { EMPTY_SCOPE, type Scope, scopeWords } from "../shared/scope/scope";
import { useScopeNames } from "../shared/scope/useScopeNames";
import { Button, Chip, Labelled } from "../shared/ui";
import type { Given } from "../shared/useAccounts";
import { useCatalogue, useRoleMap } from "../shared/useRoles";
import { When } from "./When";

export type Receiver = { kind: "account" | "group"; id: string; name: string };
export type Giving = { what: "role" | "capability"; given?: Given };

type GiveProps = { giving: Giving | null; to: Receiver; onClose: () => void };

export function Give({ giving, to, onClose }: GiveProps) {
  const thing = giving?.what === "role" ? "a role" : "one capability";
  const title = giving?.given ? `Change what ${to.name} has` : `Give ${to.name} ${thing}`;
  return (
    <Dialog open={giving !== null} onClose={onClose} title={title} size="large">
      {giving && <Form giving={giving} to={to} onClose={onClose} />}
    </Dialog>
  );
}

function Form({
  giving: { what, given },
  to,
  onClose,
}: {
  giving: Giving;
  to: Receiver;
  onClose: () => void;
}) {
  const [chosen, choose] = useState(given?.role ?? given?.capability ?? "");
  const [says, setSays] = useState(given?.says ?? "");
  const [scope, setScope] = useState<Scope>(given?.scope ?? EMPTY_SCOPE);
  const [starts, setStarts] = useState(given?.starts ?? null);
  const [ends, setEnds] = useState(given?.ends ?? null);
  const role = useRoleMap().get(chosen);
  const names = useScopeNames(scope.branches ?? []);
  const words = useSays(what === "capability" ? chosen : "");
  const stage = useStage();
  const problem = stage.error instanceof ProblemError ? stage.error : null;
  const said = words.includes(says) ? says : (words.at(-2) ?? "");
  const operation = operationOf({ what, given, to, chosen, says: said, scope, starts, ends });
  const ready = chosen !== "";
  const name = what === "role" ? role?.name : chosen && (given?.words ?? chosen);

  function submit(event: FormEvent) {
    event.preventDefault();
    stage.mutate([operation], { onSuccess: onClose });
  }

  return (
    <form onSubmit={submit}>
      <div className="grid grid-cols-[300px_1fr] gap-7">
        <div>
          <Labelled
            label={what === "role" ? "Role" : "Capability"}
            error={problem?.at(`/operations/0/${what}`) ?? problem?.at(`/${what}`)}
            hint={role?.description}
          >
            {(id, by) =>
              what === "role" ? (
                <RolePicker
                  id={id}
                  describedBy={by}
                  value={chosen}
                  onPick={choose}
                  disabled={Boolean(given)}
                />
              ) : (
                <CapabilityPicker
                  id={id}
                  describedBy={by}
                  value={chosen}
                  onPick={choose}
                  disabled={Boolean(given)}
                />
              )
            }
          </Labelled>
          {words.length > 1 && (
            <fieldset className="mb-3">
              <legend className="mb-1.5 text-sm font-semibold">How far</legend>
              <div className="flex gap-1.5">
                {words.map((word) => (
                  <Chip key={word} on={said === word} disabled={Boolean(given)} onClick={() => setSays(word)}>
                    {word}
                  </Chip>
                ))}
              </div>
            </fieldset>
          )}
          <When
            starts={starts}
            ends={ends}
            onStarts={setStarts}
            onEnds={setEnds}
            error={problem?.at("/ends")}
          />
          <OnlyFor scope={scope} onChange={setScope} />
        </div>
        <div className="min-w-0">
          <Where scope={scope} onChange={setScope} />
          <p className="mt-3 text-lead">
            {to.name} {said === "barred" ? "is barred from" : "holds"} {name || "…"}{" "}
            <strong className="bg-[linear-gradient(transparent_60%,#f1dcae_60%)]">
              {scopeWords(scope, names)}
            </strong>
            {ends
              ? `, until ${new Date(ends).toLocaleString(undefined, { dateStyle: "long", timeStyle: "short" })}`
              : ""}
            .
          </p>
          <Covers scope={scope} />
        </div>
      </div>
      {problem && !problem.at("/ends") && (
        <p role="alert" className="mt-2 text-sm text-bar">
          {problem.problem.detail}
        </p>
      )}
      <div className="mt-4 flex items-center gap-2">
        <span className="flex-1 text-xs text-ink2">{ready && <ByItself operation={operation} />}</span>
        <Button onClick={onClose}>Cancel</Button>
        <Button type="submit" look="main" disabled={!ready || stage.isPending}>
          Stage it
        </Button>
      </div>
    </form>
  );
}

/** The words that can be given of a capability, the longest extent and `barred` last. */
function useSays(capability: string): string[] {
  const catalogue = useCatalogue().data;
  if (!capability || !catalogue) return [];
  return catalogue.duties.some(({ key }) => key === capability)
    ? ["yes", "barred"]
    : ["own", "team", "all", "barred"];
}

type Asked = {
  what: Giving["what"];
  given?: Given;
  to: Receiver;
  chosen: string;
  says: string;
  scope: Scope;
  starts: string | null;
  ends: string | null;
};

/** The operation that gives it, or changes what was given. */
export function operationOf({ what, given, to, chosen, says, scope, starts, ends }: Asked): Operation {
  const held = { scope, starts, ends };
  if (given) {
    return what === "role"
      ? { kind: "change-role", assignment: given.id, ...held }
      : { kind: "change-capability", grant: given.id, ...held };
  }
  const receiver = { kind: to.kind, id: to.id };
  return what === "role"
    ? { kind: "give-role", role: chosen, to: receiver, ...held }
    : { kind: "give-capability", capability: chosen, says, to: receiver, ...held };
}

function ByItself({ operation }: { operation: Operation }) {
  const touched = useOperationsTouched([operation], true);
  if (touched.error) return null;
  if (!touched.data) return <>Counting whom it touches…</>;
  if (!isTold(touched.data))
    return <span className="first-letter:uppercase">{bothWords(touched.data)}.</span>;
  if (touchesNobody(touched.data)) return <>By itself it changes nothing for anybody.</>;
  return <>By itself: {touchedWords(touched.data)}.</>;
}
