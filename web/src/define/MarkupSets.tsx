// Markup sets: what each lets through into texts, how risky that is, and which roles may use it.
import { useState } from "react";
import { RoleCloth } from "../cloth/RoleCloth";
import { useSession } from "../shared/session";
import { Button, ErrorNotice, Loading } from "../shared/ui";
import type { Role } from "../shared/useRoles";
import { EditMarkup } from "./EditMarkup";
import { type MarkupSet, useDropMarkup, useMarkupSets } from "./useCatalogue";

export function MarkupSets({ roles }: { roles: Map<string, Role> }) {
  const sets = useMarkupSets();
  const [editing, edit] = useState<MarkupSet | "new" | null>(null);
  const drop = useDropMarkup();
  const may = useSession().data?.duties.includes("site.settings") ?? false;
  return (
    <section aria-labelledby="markup" className="mt-7">
      <div className="flex items-end border-b border-line pb-1">
        <h2 id="markup">Markup sets</h2>
        <span className="flex-1" />
        {may && <Button onClick={() => edit("new")}>New markup set</Button>}
      </div>
      <p className="mt-1 max-w-[70ch] text-sm text-ink2">
        What is typed or pasted into a text is cleaned on the server to the set that leaves most of it, among
        those its author may use on that page. Who may use none writes plain paragraphs.
      </p>
      <ErrorNotice error={sets.error ?? drop.error} />
      {sets.isPending && <Loading what="the markup sets" />}
      <ul>
        {sets.data?.map((set) => (
          <li key={set.key} className="flex items-start gap-4 border-b border-linen2 py-3">
            <div className="min-w-0 flex-1">
              <h3 className="text-lead font-semibold">{set.name}</h3>
              <p className="text-sm">
                {Object.keys(set.elements).map((element) => (
                  <code key={element} className="mr-2 text-note">
                    {element}
                  </code>
                ))}
              </p>
              {set.schemes.length > 0 && <p className="text-sm text-ink2">Links: {set.schemes.join(", ")}</p>}
              {set.risk && (
                <p className="mt-1 text-sm">
                  <strong>Take care.</strong> {set.risk}
                </p>
              )}
              <p className="mt-1 flex flex-wrap items-center gap-x-3 text-sm text-ink2">
                {set.roles?.length === 0 && "No role says anything about it."}
                {set.roles?.map((key) => (
                  <span key={key} className="flex items-center gap-1.5">
                    <RoleCloth cloth={roles.get(key)?.cloth} size={13} />
                    {roles.get(key)?.name}
                  </span>
                ))}
              </p>
            </div>
            {may && (
              <div className="flex gap-1">
                <Button aria-label={`Change ${set.name}`} onClick={() => edit(set)}>
                  Change
                </Button>
                <Button look="quiet" aria-label={`Drop ${set.name}`} onClick={() => drop.mutate(set.key)}>
                  Drop
                </Button>
              </div>
            )}
          </li>
        ))}
      </ul>
      {editing && (
        <EditMarkup set={editing === "new" ? null : editing} roles={roles} onClose={() => edit(null)} />
      )}
    </section>
  );
}
