// The page as it will read: its components in order, one of them chosen.
import type { ReactNode } from "react";
import { Menu, MenuItem } from "../shared/Menu";
import { useSession } from "../shared/session";
import { Button } from "../shared/ui";
import { type Catalogue, useCatalogue } from "../shared/useRoles";
import { withPart } from "./components";
import type { Ghost, Page, PageComponent } from "./useDesk";

type CanvasProps = {
  page: Page;
  ghosts: Ghost[];
  chosen: string | null;
  onChoose: (id: string) => void;
  onChange: (components: PageComponent[]) => void;
};

export function Canvas({ page, ghosts, chosen, onChoose, onChange }: CanvasProps) {
  const standing = Boolean(useSession().data?.standing_in);
  const hidden = new Set(ghosts.filter((ghost) => ghost.kind === "facet").map((ghost) => ghost.key));
  const known = useCatalogue().data?.components;
  if (page.tree === "media") return <MediaCanvas page={page} />;
  return (
    <div className="rounded-md border border-line bg-paper p-[14px]">
      {page.components.length === 0 && <p className="p-3 text-sm text-ink2">This page has no parts yet.</p>}
      <ul>
        {page.components.map((component) => {
          const open = Object.values(component.facets).some(Boolean);
          const shut = Object.keys(component.facets).every((facet) => hidden.has(`${component.id}.${facet}`));
          return (
            <li key={component.id} className="relative mb-[6px]">
              {component.locked && (
                <span className="absolute -top-1 right-2 rounded-[3px] bg-ink2 px-1.5 text-tiny text-white">
                  locked
                </span>
              )}
              <button
                type="button"
                aria-pressed={component.id === chosen}
                data-component={component.id}
                aria-label={
                  component.kind === "picture"
                    ? `Picture: ${component.props.caption || "no caption"}`
                    : undefined
                }
                onClick={() => onChoose(component.id)}
                className={`block w-full rounded-[4px] border p-[11px] text-left ${
                  component.id === chosen
                    ? "border-rod shadow-[inset_0_0_0_1px_var(--color-rod)]"
                    : open
                      ? "border-transparent hover:border-line2"
                      : "border-transparent"
                } ${shut && ghosts.length > 0 ? "hatched border-dashed border-line2!" : ""}`}
              >
                <Drawn component={component} known={known?.find(({ key }) => key === component.kind)} />
              </button>
            </li>
          );
        })}
      </ul>
      {page.insertable.length > 0 && !standing && <Insert page={page} onChange={onChange} />}
    </div>
  );
}

type DrawnProps = { component: PageComponent; known?: Catalogue["components"][number] };

function Drawn({ component: { kind, props, off }, known }: DrawnProps): ReactNode {
  const text = (key: string) => String(props[key] ?? "");
  if (off) return <span className="block text-sm text-ink2">A part whose extension is switched off.</span>;
  switch (kind) {
    case "heading":
      return (
        <span className={`block font-bold ${props.level === 3 ? "text-lg" : "text-title leading-tight"}`}>
          {text("text") || "A heading"}
        </span>
      );
    case "text":
      return (
        <span
          className="prose-edit block"
          // biome-ignore lint/security/noDangerouslySetInnerHtml: cleaned by the server when it was saved
          dangerouslySetInnerHTML={{ __html: text("html") || "<p>Some text</p>" }}
        />
      );
    case "picture":
      return text("picture") ? (
        <img
          src={`/files/${text("picture")}`}
          alt={text("caption")}
          className="max-h-[220px] w-full rounded-sm object-cover"
        />
      ) : (
        <span className="block p-6 text-center text-ink2">No picture chosen</span>
      );
    case "table":
      return <Table caption={text("caption")} rows={props.rows as string[][]} head={Boolean(props.head)} />;
    case "button":
      return (
        <span className="inline-block rounded bg-rod px-4 py-1.5 text-sm text-white">
          {text("label") || "A button"}
        </span>
      );
    case "banner":
      return <span className="block text-sm text-ink2">{text("text")}</span>;
    default:
      return <Other props={props} properties={known?.properties ?? []} />;
  }
}

type TableProps = { caption: string; rows?: string[][]; head?: boolean };

function Table({ caption, rows = [], head = false }: TableProps) {
  return (
    <span className="block text-sm">
      <span className="block font-semibold">{caption}</span>
      {rows.map((row, i) => (
        <span
          // biome-ignore lint/suspicious/noArrayIndexKey: rows have no other name
          key={i}
          className={`flex gap-4 border-b border-linen2 py-[3px] ${i === 0 && head ? "font-semibold" : ""}`}
        >
          {row.map((cell, j) => (
            <span // biome-ignore lint/suspicious/noArrayIndexKey: cells have no other name
              key={j}
              className="flex-1"
            >
              {cell}
            </span>
          ))}
        </span>
      ))}
    </span>
  );
}

type OtherProps = {
  props: PageComponent["props"];
  properties: Catalogue["components"][number]["properties"];
};

/** A part that an extension brings: its texts and tables in their order. */
function Other({ props, properties }: OtherProps) {
  return properties.map(({ key, name, kind }) =>
    kind === "rows" ? (
      <Table key={key} caption="" rows={props[key] as string[][]} />
    ) : (
      <span key={key} className="block text-sm">
        <span className="text-xs text-ink2">{name}: </span>
        {String(props[key] ?? "")}
      </span>
    ),
  );
}

function Insert({ page, onChange }: { page: Page; onChange: (components: PageComponent[]) => void }) {
  const names = new Map(useCatalogue().data?.components.map(({ key, name }) => [key, name]));
  return (
    <Menu align="start" trigger={<Button look="quiet">Add a part</Button>}>
      {page.insertable.map((part) => (
        <MenuItem key={part.kind} onSelect={() => onChange(withPart(page.components, part))}>
          {names.get(part.kind) ?? part.kind}
        </MenuItem>
      ))}
    </Menu>
  );
}

function MediaCanvas({ page }: { page: Page }) {
  const alt = page.fields.find((field) => field.key === "alt")?.value;
  return (
    <div className="rounded-md border border-line bg-paper p-[14px]">
      {page.type === "picture" && (
        <img src={`/files/${page.id}`} alt={String(alt ?? "")} className="w-full rounded-sm" />
      )}
      {page.type === "document" && (
        <p className="p-3">
          <a className="underline" href={`/files/${page.id}`}>
            {page.title}
          </a>
        </p>
      )}
      {page.type === "folder" && (
        <p className="p-3 text-sm text-ink2">A folder. What is in it is beneath it in the tree.</p>
      )}
    </div>
  );
}
