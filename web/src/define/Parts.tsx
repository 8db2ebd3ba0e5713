// Components and facets of a role: which it may insert, and which sides of each it may change.

import type { ReactNode } from "react";
import { colourOf } from "../cloth/colours";
import { Mark } from "../cloth/Mark";
import { useStage } from "../shared/changes/changeSet";
import { Button, ErrorNotice } from "../shared/ui";
import type { Catalogue, Role } from "../shared/useRoles";
import { allowed, type Listed, toggled, wholeColumn, wholeInsert, wholeRow, wordsOnly } from "./partLists";
import type { Board } from "./useBoard";

const FACETS = ["wording", "media", "links", "style", "layout", "code"];

type PartsProps = { role: Role; roles: Map<string, Role>; board: Board; catalogue: Catalogue };

export function Parts({ role, roles, board, catalogue }: PartsProps) {
  const stage = useStage();
  const every = catalogue.components.map(({ key }) => key);
  const columns = FACETS.filter((facet) => catalogue.components.some(({ facets }) => facets.includes(facet)));
  const may = `Holders of ${role.name} may`;

  function insert(component: string) {
    const components = toggled(allowed(board.components, every), component);
    stage.mutate([{ kind: "set-components", role: role.key, components }]);
  }

  function change(component: string, listed: Listed, all: string[], facet: string) {
    const facets = toggled(allowed(listed, all), facet);
    stage.mutate([{ kind: "set-facets", role: role.key, component, facets }]);
  }

  return (
    <section aria-labelledby="parts" className="mt-4 text-sm">
      <div className="flex items-baseline gap-3 border-b border-line pb-1">
        <h2 id="parts" className="text-note font-semibold text-ink2">
          Components and facets
        </h2>
        <span className="text-xs text-ink2">{note(board.components, roles)}</span>
        <span className="flex-1" />
        <Button
          look="quiet"
          className="px-1! py-0! text-xs! font-normal!"
          title="Of every component the wording alone"
          onClick={() => stage.mutate(wordsOnly(role.key, catalogue))}
        >
          Words only
        </Button>
        {board.components.said && (
          <Button
            look="quiet"
            className="px-1! py-0! text-xs! font-normal!"
            onClick={() => stage.mutate([{ kind: "set-components", role: role.key, components: null }])}
          >
            Say nothing of inserting
          </Button>
        )}
      </div>
      <ErrorNotice error={stage.error} />
      <table className="w-full">
        <thead>
          <tr className="text-tiny text-ink2">
            <th className="w-[150px]">
              <span className="sr-only">Component</span>
            </th>
            <th className="py-1">
              <Handle
                label="Inserting every component, or none"
                onPress={() => stage.mutate(wholeInsert(role.key, board.components, every))}
              >
                Insert
              </Handle>
            </th>
            {columns.map((facet) => (
              <th key={facet}>
                <Handle
                  label={`The ${facet} of every component, or of none`}
                  onPress={() => stage.mutate(wholeColumn(role.key, facet, board, catalogue))}
                >
                  {facet}
                </Handle>
              </th>
            ))}
            <th className="w-[110px]">
              <span className="sr-only">Say nothing</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {catalogue.components.map(({ key, name, facets }) => {
            const listed = board.facets.find(({ component }) => component === key);
            return (
              <tr key={key} className="border-b border-linen2">
                <th scope="row" className="py-[3px] text-left">
                  {listed && facets.length > 0 ? (
                    <Handle
                      label={`Every side of ${name}, or none`}
                      onPress={() => stage.mutate(wholeRow(role.key, key, listed, facets))}
                    >
                      <strong className="text-sm font-semibold text-ink">{name}</strong>
                    </Handle>
                  ) : (
                    <span className="px-1 font-semibold">{name}</span>
                  )}
                </th>
                <td className="text-center">
                  <Toggle
                    role={role}
                    on={allowed(board.components, every).includes(key)}
                    listed={board.components}
                    label={`${may} insert: ${name}`}
                    onToggle={() => insert(key)}
                  />
                </td>
                {columns.map((facet) => (
                  <td key={facet} className="text-center">
                    {listed && facets.includes(facet) && (
                      <Toggle
                        role={role}
                        on={allowed(listed, facets).includes(facet)}
                        listed={listed}
                        label={`${may} change ${facet}: ${name}`}
                        onToggle={() => change(key, listed, facets, facet)}
                      />
                    )}
                  </td>
                ))}
                <td className="text-right">
                  {listed?.said && (
                    <Button
                      look="quiet"
                      className="px-1! py-0! text-xs! font-normal!"
                      aria-label={`Say nothing of ${name}`}
                      onClick={() =>
                        stage.mutate([{ kind: "set-facets", role: role.key, component: key, facets: null }])
                      }
                    >
                      Say nothing
                    </Button>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}

function note(listed: Listed, roles: Map<string, Role>): string {
  if (listed.said) return "Only those hanging here may be inserted.";
  if (listed.inherited) return `As ${roles.get(listed.inherited_from ?? "")?.name} says.`;
  return "Nothing is said, so any may be used.";
}

type HandleProps = { label: string; onPress: () => void; children: ReactNode };

/** The head of a row or a column, by which all of it is set. */
function Handle({ label, onPress, children }: HandleProps) {
  return (
    <button
      type="button"
      aria-label={label}
      title={label}
      onClick={onPress}
      className="inline-block rounded px-1 font-medium first-letter:uppercase hover:bg-linen2"
    >
      {children}
    </button>
  );
}

type ToggleProps = { role: Role; on: boolean; listed: Listed; label: string; onToggle: () => void };

function Toggle({ role, on, listed, label, onToggle }: ToggleProps) {
  return (
    <button
      type="button"
      role="switch"
      aria-checked={on}
      aria-label={label}
      title={`${label}${on ? "" : " — not"}`}
      onClick={onToggle}
      className="rounded px-1 pt-[2px] hover:bg-linen2"
    >
      <span aria-hidden="true">
        <Mark
          extent={on ? "all" : "nothing"}
          colour={colourOf(role.cloth)}
          inherited={on && listed.said === null}
          staged={listed.staged}
        />
      </span>
    </button>
  );
}
