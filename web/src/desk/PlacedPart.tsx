// A part where it stands on the page: chosen, dragged by its handle, or moved by Alt and arrows.
import type { KeyboardEvent, ReactNode } from "react";
import { SortHandle, useSorted } from "../shared/Sortable";
import type { Catalogue } from "../shared/useRoles";
import { DrawnPart } from "./DrawnPart";
import { typedHere } from "./here";
import { type Lock, lockWords } from "./Locks";
import type { Ghost, PageComponent } from "./useDesk";

type PlacedProps = {
  component: PageComponent;
  lock?: Lock;
  known?: Catalogue["components"][number];
  ghosts: Ghost[];
  chosen: boolean;
  /** Whether it stays where it is, whoever looks at it. */
  fixed: boolean;
  /** What stands above it. */
  before: ReactNode;
  onChoose: () => void;
  onShift: (step: -1 | 1) => void;
  /** Takes what is typed in it; without it one only looks. */
  onPut?: (key: string, value: unknown) => void;
};

export function PlacedPart({
  component,
  lock,
  known,
  ghosts,
  chosen,
  fixed,
  before,
  onChoose,
  onShift,
  onPut,
}: PlacedProps) {
  const { item, handle, dragged } = useSorted(component.id, fixed);
  const keys = typedHere(component, known);
  const here = chosen && onPut && keys.size > 0;
  const nameOf = (key: string) => known?.properties.find((property) => property.key === key)?.name ?? key;
  const emptyOf = (key: string) => (nameOf(key) === "Text" ? (known?.name ?? "") : nameOf(key));

  function shift(event: KeyboardEvent) {
    if (fixed || !event.altKey || !["ArrowUp", "ArrowDown"].includes(event.key)) return;
    event.preventDefault();
    onShift(event.key === "ArrowUp" ? -1 : 1);
  }
  return (
    <li {...item} className={`group/part relative mb-[14px] ${dragged ? "z-20 bg-paper shadow-lg" : ""}`}>
      {before}
      {component.locked && (
        <span className="absolute -top-1 right-2 max-w-[80%] truncate rounded-[3px] bg-ink2 px-1.5 text-tiny text-white">
          {lock ? lockWords(lock) : "locked"}
        </span>
      )}
      {here ? (
        <div
          role="group"
          tabIndex={-1}
          data-page-undoes
          data-component={component.id}
          aria-label={known?.name}
          onKeyDown={(event) => {
            if (event.key === "Escape") event.currentTarget.focus();
            shift(event);
          }}
          className={`rounded-[4px] border p-[11px] ${look(component, ghosts, true)}`}
        >
          <DrawnPart component={component} known={known} here={{ keys, nameOf, emptyOf, put: onPut }} />
        </div>
      ) : (
        <button
          type="button"
          aria-pressed={chosen}
          data-component={component.id}
          aria-label={
            component.kind === "picture" ? `Picture: ${component.props.caption || "no caption"}` : undefined
          }
          onClick={() => {
            onChoose();
            if (onPut) typeIn(component.id);
          }}
          onKeyDown={shift}
          className={`block w-full rounded-[4px] border p-[11px] text-left ${look(component, ghosts, chosen)}`}
        >
          <DrawnPart component={component} known={known} />
        </button>
      )}
      {!fixed && (
        <SortHandle
          name={known?.name ?? component.kind}
          {...handle}
          tabIndex={chosen ? 0 : -1}
          className="absolute top-[12px] -left-[13px] text-transparent group-hover/part:text-ink2 focus-visible:text-ink2"
        />
      )}
    </li>
  );
}

/** Put the focus on a part, once it is drawn. */
export function focusPart(id: string) {
  requestAnimationFrame(() => document.querySelector<HTMLElement>(`[data-component="${id}"]`)?.focus());
}

/** Put the focus where a part is typed in first, once it is drawn. */
function typeIn(id: string) {
  requestAnimationFrame(() =>
    document
      .querySelector<HTMLElement>(`[data-component="${id}"] :is([contenteditable="true"], input, textarea)`)
      ?.focus(),
  );
}

function look({ id, facets }: PageComponent, ghosts: Ghost[], chosen: boolean): string {
  const hidden = new Set(ghosts.filter(({ kind }) => kind === "facet").map(({ key }) => key));
  const open = Object.values(facets).some(Boolean);
  const shut = ghosts.length > 0 && Object.keys(facets).every((facet) => hidden.has(`${id}.${facet}`));
  const edge = chosen
    ? "border-rod shadow-[inset_0_0_0_1px_var(--color-rod)]"
    : `border-transparent ${open ? "hover:border-line2" : ""}`;
  return `${edge} ${shut ? "hatched border-dashed border-line2!" : ""}`;
}
