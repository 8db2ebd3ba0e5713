// One editor of where something holds: branches by the tree, and only some sites, kinds and topics.
import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { answer, api } from "../../api/client";
import { keys } from "../keys";
import { type Choice, Picker } from "../Picker";
import { count } from "../time";
import { BranchTree } from "../tree/BranchTree";
import { Chip } from "../ui";
import { useSites, useTopics } from "../useAccounts";
import { useCatalogue } from "../useRoles";
import { type Line, type Scope, withValue } from "./scope";

type EditorProps = { scope: Scope; onChange: (scope: Scope) => void };

export function OnlyFor({ scope, onChange }: EditorProps) {
  const types = useCatalogue().data?.types.filter(({ tree }) => tree !== null) ?? [];
  const lines: { line: Line; what: string; plural: string; choices: Choice[] }[] = [
    { line: "types", what: "kind", plural: "kinds", choices: types.map(({ key, name }) => ({ key, name })) },
    { line: "topics", what: "topic", plural: "topics", choices: useTopics().data ?? [] },
    { line: "sites", what: "site", plural: "sites", choices: useSites().data ?? [] },
  ];
  return (
    <fieldset>
      <legend className="mb-1.5 text-sm font-semibold">Only for</legend>
      {lines.map(({ line, what, plural, choices }) => (
        <div key={line} className="mb-1.5 flex flex-wrap gap-1.5">
          {(scope[line] ?? []).map((key) => (
            <Chip key={key} on onClick={() => onChange(withValue(scope, line, key, false))}>
              {choices.find((choice) => choice.key === key)?.name ?? key}
              <span aria-hidden="true">×</span>
              <span className="sr-only">, leave out</span>
            </Chip>
          ))}
          <Picker
            what={what}
            choices={choices.filter(({ key }) => !scope[line]?.includes(key))}
            onPick={(key) => onChange(withValue(scope, line, key, true))}
            trigger={<Chip>+ {plural}</Chip>}
          />
        </div>
      ))}
      <p className="text-xs text-ink2">A page counts when it fits every line that names something.</p>
    </fieldset>
  );
}

export function Where({ scope, onChange }: EditorProps) {
  return (
    <BranchTree
      label="Where"
      chosen={scope.branches ?? []}
      onChange={(branches) => {
        const { branches: _, ...others } = scope;
        onChange(branches.length > 0 ? { ...others, branches } : others);
      }}
    />
  );
}

/** How much a scope covers, with some names. */
export function Covers({ scope, children }: { scope: Scope; children?: ReactNode }) {
  const covers = useQuery({
    queryKey: keys.scopeCovers(scope),
    queryFn: () => answer(api.POST("/api/scope", { body: { scope } })),
    placeholderData: (before) => before,
    retry: false,
  });
  if (!covers.data) return <p className="text-xs text-ink2">Counting what it covers…</p>;
  const { pages, media, named } = covers.data;
  if (pages + media === 0)
    return <p className="text-xs text-bar">That covers nothing today: no page fits all of it.</p>;
  const parts = [pages > 0 && count(pages, "page"), media > 0 && `${media} of media`].filter(Boolean);
  const more = pages + media - named.length;
  return (
    <p className="text-xs text-ink2" aria-live="polite">
      That is {parts.join(" and ")} today: {named.join("; ")}
      {more > 0 ? `; and ${more} more` : ""}. {children}
    </p>
  );
}
