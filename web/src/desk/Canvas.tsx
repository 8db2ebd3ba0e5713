// The page as it will read: its parts in order, one of them chosen; new ones go in between, others are dragged.
import { Closed } from "../shared/Closed";
import { Sortable } from "../shared/Sortable";
import { useLooksOnly } from "../shared/session";
import { useCatalogue } from "../shared/useRoles";
import { useActions } from "../shared/useWords";
import { drawnKey, shifted, withPart } from "./components";
import { withProperty } from "./here";
import { InsertAtEnd, InsertBefore } from "./InsertPart";
import { lockOf } from "./Locks";
import { FileCanvas } from "./media/FileCanvas";
import { FolderCanvas } from "./media/FolderCanvas";
import { IN_THE_HEAD } from "./PageHead";
import { focusPart, PlacedPart } from "./PlacedPart";
import type { Ghost, Page, PageComponent } from "./useDesk";

type CanvasProps = {
  page: Page;
  ghosts: Ghost[];
  chosen: string | null;
  onChoose: (id: string) => void;
  /** `what` names what was changed. */
  onChange: (components: PageComponent[], what: string) => void;
};

export function Canvas({ page, ghosts, chosen, onChoose, onChange }: CanvasProps) {
  const looks = useLooksOnly();
  const known = useCatalogue().data?.components;
  if (page.type === "folder") return <FolderCanvas page={page} />;
  if (page.tree === "media") return <FileCanvas page={page} />;
  const { components, insertable } = page;
  const at = components.findIndex(({ id }) => id === chosen);
  const nameOf = (kind = "") => known?.find(({ key }) => key === kind)?.name ?? kind;
  const mayInsert = insertable.length > 0 && !looks;

  function move(from: number, to: number) {
    const moved = shifted(components, from, to - from);
    if (moved === components) return;
    onChange(moved, "order");
    focusPart(components[from]?.id ?? "");
  }

  function insert(place: number, part: Page["insertable"][number]) {
    const more = withPart(components, place, part);
    onChange(more, "order");
    onChoose(more[place]?.id ?? "");
    focusPart(more[place]?.id ?? "");
  }

  return (
    <div className="rounded-md border border-line bg-paper p-[14px]">
      {components.length === 0 && <p className="p-3 text-sm text-ink2">This page has no parts yet.</p>}
      <Sortable
        ids={components.map(({ id }) => id)}
        what="the part"
        nameOf={(id) => nameOf(components.find((component) => component.id === id)?.kind)}
        onMove={move}
      >
        <ul>
          {components.map((component, place) => (
            <PlacedPart
              key={drawnKey(component.id)}
              component={component}
              lock={lockOf(page, { component: component.id })}
              known={known?.find(({ key }) => key === component.kind)}
              ghosts={ghosts}
              chosen={place === at}
              fixed={looks || !component.may_arrange}
              before={
                mayInsert && (
                  <InsertBefore
                    insertable={insertable}
                    nameOf={nameOf}
                    before={nameOf(component.kind)}
                    near={at >= 0 && (place === at || place === at + 1)}
                    onInsert={(part) => insert(place, part)}
                  />
                )
              }
              onChoose={() => onChoose(component.id)}
              onShift={(step) => move(place, place + step)}
              onPut={
                looks
                  ? undefined
                  : (key, value) =>
                      onChange(withProperty(components, component.id, key, value), `${component.id} ${key}`)
              }
            />
          ))}
        </ul>
      </Sortable>
      {ghosts.length > 0 && <ClosedHere page={page} ghosts={ghosts} />}
      {mayInsert && (
        <InsertAtEnd
          insertable={insertable}
          nameOf={nameOf}
          onInsert={(part) => insert(components.length, part)}
        />
      )}
    </div>
  );
}

/** Under the X-ray, what else they may not do with the page, nor put into it. */
function ClosedHere({ page, ghosts }: { page: Page; ghosts: Ghost[] }) {
  const names = new Map(useActions().map(({ key, name }) => [key, name]));
  const verbs = ghosts.filter(({ kind, key }) => kind === "action" && !IN_THE_HEAD.includes(key));
  const parts = ghosts.filter(({ kind }) => kind === "component");
  return (
    <section
      aria-label="Closed to them here"
      className="mt-3 flex flex-wrap gap-x-4 gap-y-1 rounded border border-dashed border-[#c28f2c] bg-[#fbf2df] px-3 py-2 text-sm"
    >
      {verbs.length > 0 && <strong>They may not</strong>}
      <Closed
        things={verbs.map(({ key, reason }) => ({
          name: names.get(key) ?? key,
          reason,
          question: { action: key, node: page.id },
        }))}
      />
      {parts.length > 0 && <strong>They may not put in</strong>}
      <Closed
        things={parts.map(({ key, name, reason }) => ({
          name,
          reason,
          question: { action: "insert-component", node: page.id, component: key },
        }))}
      />
    </section>
  );
}
