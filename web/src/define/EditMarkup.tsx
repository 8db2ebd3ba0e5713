// Making or changing a markup set: elements a line each, and how risky it is as it stands.
import { useState } from "react";
import { ProblemError } from "../api/client";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { Button, ErrorNotice, INPUT, Labelled } from "../shared/ui";
import type { Role } from "../shared/useRoles";
import { type Markup, type MarkupSet, useMarkupRisk, useSaveMarkup } from "./useCatalogue";

type EditProps = { set: MarkupSet | null; roles: Map<string, Role>; onClose: () => void };

export function EditMarkup({ set, roles, onClose }: EditProps) {
  const [name, setName] = useState(set?.name ?? "");
  const [elements, setElements] = useState(set ? written(set.elements) : "p\nstrong\nem\na href");
  const [schemes, setSchemes] = useState(set ? set.schemes.join(" ") : "https mailto");
  const markup: Markup = { name: name || "A set", elements: read(elements), schemes: words(schemes) };
  const risk = useMarkupRisk(markup);
  const save = useSaveMarkup(set);
  const problem = save.error instanceof ProblemError ? save.error : null;
  const wrong = risk.error instanceof ProblemError ? risk.error : null;
  const at = (field: string) =>
    problem?.at(`/${field}`) ?? (field === "name" ? undefined : wrong?.at(`/${field}`));
  return (
    <Dialog open onClose={onClose} title={set ? `Change ${set.name}` : "New markup set"}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate({ ...markup, name }, { onSuccess: onClose });
        }}
      >
        <Labelled label="Name" error={at("name")}>
          {(id, note) => (
            <input
              id={id}
              aria-describedby={note}
              value={name}
              onChange={(event) => setName(event.target.value)}
              className={INPUT}
            />
          )}
        </Labelled>
        <Labelled
          label="Elements"
          error={at("elements")}
          hint="One a line, with the attributes it may have after it: a href"
        >
          {(id, note) => (
            <textarea
              id={id}
              aria-describedby={note}
              rows={9}
              spellCheck={false}
              value={elements}
              onChange={(event) => setElements(event.target.value)}
              className={`${INPUT} font-mono text-sm!`}
            />
          )}
        </Labelled>
        <Labelled label="Links may begin with" error={at("schemes")} hint="https mailto tel">
          {(id, note) => (
            <input
              id={id}
              aria-describedby={note}
              value={schemes}
              onChange={(event) => setSchemes(event.target.value)}
              className={INPUT}
            />
          )}
        </Labelled>
        <p role="status" className="min-h-[40px] text-sm">
          {risk.data?.risk ? (
            <>
              <strong>Take care.</strong> {risk.data.risk}
            </>
          ) : (
            <span className="text-ink2">Nothing risky in it.</span>
          )}
        </p>
        <p className="text-sm text-ink2">
          {usedBy(set, roles)} Texts that are saved already stay as they are.
        </p>
        {!problem?.problem.errors && <ErrorNotice error={save.error} />}
        <DialogButtons>
          <Button onClick={onClose}>Cancel</Button>
          <Button look="main" type="submit" disabled={save.isPending}>
            {set ? "Save for everyone who uses it" : "Make it"}
          </Button>
        </DialogButtons>
      </form>
    </Dialog>
  );
}

/** Whom saving it changes anything for. */
function usedBy(set: MarkupSet | null, roles: Map<string, Role>): string {
  if (set?.roles === null) return "It changes at once what may be written by those who may use it.";
  if (!set || set.roles.length === 0) return "No role speaks of it yet, so that nobody may use it.";
  return `It changes at once what may be written by ${set.roles.map((key) => roles.get(key)?.name ?? key).join(", ")}.`;
}

function words(text: string): string[] {
  return text.split(/[\s,]+/).filter(Boolean);
}

function read(text: string): Markup["elements"] {
  const lines = text.split("\n").map(words);
  return Object.fromEntries(
    lines.filter((line) => line.length > 0).map(([element, ...rest]) => [element, rest]),
  );
}

function written(elements: MarkupSet["elements"]): string {
  return Object.entries(elements)
    .map(([element, attributes]) => [element, ...attributes].join(" "))
    .join("\n");
}
