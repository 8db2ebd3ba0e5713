// A part of a page drawn as it will read on the site: the shapes that the catalogue says, filled from its properties.
import type { ReactNode } from "react";
import type { Shapes } from "../api/client";
import type { Catalogue } from "../shared/useRoles";
import type { PageComponent } from "./useDesk";

type Known = Catalogue["components"][number];
type Drawn = Shapes["DrawnShape"];
type DrawnProps = { component: PageComponent; known?: Known };

/** One part as it will read. */
export function DrawnPart({ component: { props, off }, known }: DrawnProps): ReactNode {
  if (off) return <Quiet>A part whose extension is switched off.</Quiet>;
  if (!known) return null;
  const drawn = known.drawn.filter(({ main }) => hasSomething(props[main]));
  if (known.drawn.length === 0) return <ReadOut props={props} properties={known.properties} />;
  if (drawn.length === 0) return <Quiet>{known.name}, with nothing in it yet</Quiet>;
  return drawn.map((shape) => (
    <Shape key={`${shape.shape} ${shape.main}`} shape={shape} filled={filledFrom(shape, props, known)} />
  ));
}

const hasSomething = (value: unknown) =>
  Array.isArray(value) ? value.flat().some(Boolean) : value !== "" && Boolean(value);

/** What fills a shape: what the part says; of a choice, the first unless it says another. */
function filledFrom(shape: Drawn, props: PageComponent["props"], known: Known): Record<string, unknown> {
  const unlessSaid = (key: string) => known.properties.find((one) => one.key === key)?.choices[0]?.value;
  return Object.fromEntries(
    Object.entries(shape.filled).map(([slot, key]) => [slot, props[key] ?? unlessSaid(key)]),
  );
}

type ShapeProps = { shape: Drawn; filled: Record<string, unknown> };

function Shape({ shape, filled }: ShapeProps): ReactNode {
  const text = (slot: string) => String(filled[slot] ?? "");
  const labelled = (slot: string) => `${shape.label} ${text(slot)}`.trim();
  const strong = filled.tone === "strong";
  switch (shape.shape) {
    case "heading":
      return (
        <span className={`block font-bold ${filled.level === 3 ? "text-lg" : "text-title leading-tight"}`}>
          {text("text")}
        </span>
      );
    case "prose":
      return (
        <span
          className="prose-edit block"
          // biome-ignore lint/security/noDangerouslySetInnerHtml: cleaned by the server when it was saved
          dangerouslySetInnerHTML={{ __html: text("html") }}
        />
      );
    case "figure":
      return (
        <span className={`block ${filled.width === "narrow" ? "max-w-[280px]" : ""}`}>
          <img
            src={`/files/${text("picture")}`}
            alt={text("caption")}
            className="max-h-[220px] w-full rounded-sm object-cover"
          />
        </span>
      );
    case "table":
      return <Table shape={shape} filled={filled} caption={text("caption") && labelled("caption")} />;
    case "button":
      return (
        <span
          className={`inline-block rounded bg-rod text-white ${strong ? "px-6 py-2.5 font-semibold" : "px-4 py-1.5 text-sm"}`}
        >
          {text("label")}
        </span>
      );
    case "notice":
      return (
        <span className={`block text-sm text-ink2 ${strong ? "font-semibold" : ""}`}>{text("text")}</span>
      );
    case "line":
      return <span className="block pt-1 text-sm">{labelled("text")}</span>;
  }
}

function Table({ shape, filled, caption }: ShapeProps & { caption: string }) {
  const rows = (filled.rows as string[][]) ?? [];
  return (
    <span className="block text-sm">
      <span className="block font-semibold">{caption}</span>
      {shape.heads.length > 0 && <Row cells={shape.heads} head />}
      {rows.map((row, i) => (
        <Row
          // biome-ignore lint/suspicious/noArrayIndexKey: rows have no other name
          key={i}
          cells={shape.numbered ? [String(i + 1), ...row] : row}
          head={i === 0 && Boolean(filled.head)}
        />
      ))}
    </span>
  );
}

function Row({ cells, head }: { cells: string[]; head: boolean }) {
  return (
    <span className={`flex gap-4 border-b border-linen2 py-[3px] ${head ? "font-semibold" : ""}`}>
      {cells.map((cell, i) => (
        <span // biome-ignore lint/suspicious/noArrayIndexKey: cells have no other name
          key={i}
          className="flex-1"
        >
          {cell}
        </span>
      ))}
    </span>
  );
}

type ReadOutProps = { props: PageComponent["props"]; properties: Known["properties"] };

/** A part that its extension draws by a template of its own: what is in it, one after the other. */
function ReadOut({ props, properties }: ReadOutProps) {
  return properties.map(({ key, name }) => (
    <span key={key} className="block text-sm">
      <span className="text-xs text-ink2">{name}: </span>
      {[props[key] ?? ""].flat(2).join(", ")}
    </span>
  ));
}

function Quiet({ children }: { children: ReactNode }) {
  return <span className="block text-sm text-ink2">{children}</span>;
}
