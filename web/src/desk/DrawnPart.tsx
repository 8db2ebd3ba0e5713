// A part of a page drawn as it will read on the site.
import type { ReactNode } from "react";
import type { Catalogue } from "../shared/useRoles";
import type { PageComponent } from "./useDesk";

type DrawnProps = { component: PageComponent; known?: Catalogue["components"][number] };

/** One part as it will read. */
export function DrawnPart({ component: { kind, props, off }, known }: DrawnProps): ReactNode {
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
      return <span className="block text-sm text-ink2">{text("text") || "A banner"}</span>;
    default:
      return <Other props={props} properties={known?.properties ?? []} />;
  }
}

type TableProps = { caption: string; rows?: string[][]; head?: boolean };

function Table({ caption, rows = [], head = false }: TableProps) {
  if (!caption && rows.every((row) => row.every((cell) => !cell)))
    return <span className="block p-2 text-center text-ink2">An empty table</span>;
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
