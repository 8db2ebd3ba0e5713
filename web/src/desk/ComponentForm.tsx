// The chosen component on the right of the desk: its properties, facet by facet, and where it stands.
import type { ProblemError } from "../api/client";
import { useLooksOnly } from "../shared/session";
import { Button } from "../shared/ui";
import { useCatalogue } from "../shared/useRoles";
import { ClosedField } from "./ClosedField";
import { shifted, withCopy } from "./components";
import { IN_BOTH, typedHere, withProperty } from "./here";
import { lockOf, lockWords } from "./Locks";
import { focusPart } from "./PlacedPart";
import { PropertyInput } from "./PropertyInput";
import type { Page, PageComponent } from "./useDesk";

type FormProps = {
  page: Page;
  at: number;
  component: PageComponent;
  problem: ProblemError | null;
  /** `what` names what of it was changed. */
  onComponents: (components: PageComponent[], what: string) => void;
  onChoose: (id: string) => void;
};

export function ComponentForm({ page, at, component, problem, onComponents, onChoose }: FormProps) {
  const looks = useLooksOnly();
  const known = useCatalogue().data?.components.find(({ key }) => key === component.kind);
  const facets = known?.facets ?? [];
  const lock = lockOf(page, { component: component.id });
  const onPage = looks ? new Set<string>() : typedHere(component, known);
  const again = page.insertable.find(({ kind }) => kind === component.kind);

  function put(key: string, value: unknown) {
    onComponents(withProperty(page.components, component.id, key, value), `${component.id} ${key}`);
  }

  function copy(as: Page["insertable"][number]) {
    const facetOf = (key: string) => known?.properties.find((property) => property.key === key)?.facet;
    const more = withCopy(page.components, at, as, facetOf);
    onComponents(more, "order");
    goTo(more[at + 1]);
  }

  function takeOut() {
    const fewer = page.components.toSpliced(at, 1);
    onComponents(fewer, "order");
    goTo(fewer[at] ?? fewer.at(-1));
  }

  function goTo(part?: PageComponent) {
    onChoose(part?.id ?? "");
    focusPart(part?.id ?? "");
  }

  if (component.off) {
    return (
      <p className="mb-4 px-[18px] text-sm text-ink2">
        The extension that brings this part is switched off. What is in it is kept.
      </p>
    );
  }
  return (
    <section className="mb-4" aria-label={known?.name}>
      <h2 className="border-b border-line px-[18px] pb-1 text-lead">{known?.name}</h2>
      {lock && <p className="px-[18px] pt-1 text-xs text-ink2">{lockWords(lock)}</p>}
      {facets.map((facet) => {
        const open = component.facets[facet];
        const name = facet[0]?.toUpperCase() + facet.slice(1);
        if (!open) {
          return (
            <ClosedField
              key={facet}
              name={name}
              note={component.locked ? "locked" : "closed"}
              question={{
                action: "change-facet",
                node: page.id,
                component: component.kind,
                facet,
                component_id: component.id,
              }}
            />
          );
        }
        const all = known?.properties.filter((p) => p.facet === facet && !component.hidden.includes(p.key));
        const wrongOf = (key: string) => problem?.at(`/components/${at}/props/${key}`);
        const properties = all?.filter(
          ({ key, kind }) => !onPage.has(key) || IN_BOTH.includes(kind) || wrongOf(key),
        );
        if (properties?.length === 0) return null;
        return (
          <fieldset key={facet} className="px-[18px]">
            <legend className="pt-2 text-read font-semibold">{name}</legend>
            {properties?.map((property) => (
              <PropertyInput
                key={`${component.id} ${property.key}`}
                property={property}
                value={component.props[property.key]}
                readOnly={looks}
                error={wrongOf(property.key)}
                onChange={(value) => put(property.key, value)}
              />
            ))}
          </fieldset>
        );
      })}
      {!looks && (
        <div className="flex flex-wrap gap-x-1 px-[12px] pt-2">
          {component.may_arrange && (
            <>
              <Button
                look="quiet"
                disabled={at === 0}
                onClick={() => onComponents(shifted(page.components, at, -1), "order")}
              >
                Move up
              </Button>
              <Button
                look="quiet"
                disabled={at === page.components.length - 1}
                onClick={() => onComponents(shifted(page.components, at, 1), "order")}
              >
                Move down
              </Button>
            </>
          )}
          {again && (
            <Button look="quiet" onClick={() => copy(again)}>
              Duplicate
            </Button>
          )}
          {component.may_arrange && (
            <Button look="quiet" onClick={takeOut}>
              Take out
            </Button>
          )}
        </div>
      )}
    </section>
  );
}
