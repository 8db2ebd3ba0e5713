// A part of a page drawn as it will read on the site: the shapes that the catalogue says, filled from its properties.
import type { ReactNode } from "react";
import type { Shapes } from "../api/client";
import type { Catalogue } from "../shared/useRoles";
import type { Here } from "./here";
import { PictureHere } from "./media/PictureHere";
import { pictureAt } from "./media/useFiles";
import { RichText } from "./RichText";
import { TextHere } from "./TextHere";
import type { PageComponent } from "./useDesk";

type Known = Catalogue["components"][number];
type Drawn = Shapes["DrawnShape"];
type DrawnProps = {
  component: PageComponent;
  known?: Known;
  /** What of it is typed where it stands. */
  here?: Here;
};

/** One part as it will read. */
export function DrawnPart({ component: { props, off }, known, here }: DrawnProps): ReactNode {
  if (off) return <Quiet>A part whose extension is switched off.</Quiet>;
  if (!known) return null;
  const drawn = known.drawn.filter(({ main }) => here || hasSomething(props[main]));
  if (known.drawn.length === 0) return <ReadOut props={props} properties={known.properties} />;
  if (drawn.length === 0) return <Quiet>{known.name}, with nothing in it yet</Quiet>;
  return drawn.map((shape) => (
    <Shape
      key={`${shape.shape} ${shape.main}`}
      shape={shape}
      filled={filledFrom(shape, props, known)}
      here={here}
    />
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

const LISTED: Record<string, string> = {
  beneath: "The pages beneath this one",
  beside: "The pages beside this one",
  topics: "Pages about the same topics",
};

type ShapeProps = { shape: Drawn; filled: Record<string, unknown>; here?: Here };

function Shape({ shape, filled, here }: ShapeProps): ReactNode {
  const text = (slot: string) => String(filled[slot] ?? "");
  const typed = (slot: string): ReactNode => {
    const key = shape.filled[slot] ?? "";
    if (!here?.keys.has(key)) return text(slot);
    return (
      <TextHere
        label={here.nameOf(key)}
        empty={here.emptyOf(key)}
        value={text(slot)}
        onChange={(said) => here.put(key, said)}
      />
    );
  };
  const labelled = (slot: string): ReactNode =>
    here ? (
      <span className="flex gap-[0.3em]">
        {shape.label && <span>{shape.label}</span>}
        {typed(slot)}
      </span>
    ) : (
      `${shape.label} ${text(slot)}`.trim()
    );
  const picture = text("picture") && (
    <img
      src={pictureAt(text("picture"), 0, 800)}
      alt={text("caption")}
      className="max-h-[220px] w-full rounded-sm object-cover"
    />
  );
  const strong = filled.tone === "strong";
  switch (shape.shape) {
    case "heading":
      return (
        <span className={`block font-bold ${filled.level === 3 ? "text-lg" : "text-title leading-tight"}`}>
          {typed("text")}
        </span>
      );
    case "prose":
      if (here?.keys.has(shape.main))
        return (
          <RichText
            id={`here-${shape.main}`}
            label={here.nameOf(shape.main)}
            value={text("html")}
            readOnly={false}
            onPage
            onChange={(html) => here.put(shape.main, html)}
          />
        );
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
          {here?.keys.has(shape.main) ? (
            <PictureHere value={text("picture")} onChange={(picture) => here.put(shape.main, picture)}>
              {picture}
            </PictureHere>
          ) : (
            picture
          )}
          {(text("caption") || here) && (
            <span className="mt-1 block text-sm text-ink2">{typed("caption")}</span>
          )}
        </span>
      );
    case "table":
      return (
        <Table
          shape={shape}
          filled={filled}
          here={here}
          caption={(text("caption") || here?.keys.has(shape.filled.caption ?? "")) && labelled("caption")}
        />
      );
    case "button":
      return (
        <span
          className={`inline-block rounded bg-rod text-white ${strong ? "px-6 py-2.5 font-semibold" : "px-4 py-1.5 text-sm"}`}
        >
          {typed("label")}
        </span>
      );
    case "notice":
      return (
        <span className={`block text-sm text-ink2 ${strong ? "font-semibold" : ""}`}>{typed("text")}</span>
      );
    case "quote":
      return (
        <span className="block border-l-4 border-double border-brass pl-4">
          <span className="block text-lg">{typed("text")}</span>
          {(text("by") || here) && <span className="block text-sm text-ink2">{typed("by")}</span>}
        </span>
      );
    case "pages":
      return (
        <span className="block border-t border-line pt-1.5">
          <span className="block text-lg font-bold">{typed("heading")}</span>
          <span className="block text-sm text-ink2">
            {LISTED[String(filled.of)]}, as far as whoever reads it sees them.
          </span>
        </span>
      );
    case "line":
      return <span className="block pt-1 text-sm">{labelled("text")}</span>;
  }
}

function Table({ shape, filled, caption, here }: ShapeProps & { caption: ReactNode }) {
  const rows = (filled.rows as string[][]) ?? [];
  const typed = here?.keys.has(shape.main);
  const put = (at: number, cell: number, said: string) =>
    here?.put(
      shape.main,
      rows.map((row, i) => (i === at ? row.with(cell, said) : row)),
    );
  return (
    <span className="block text-sm">
      <span className="block font-semibold">{caption}</span>
      {shape.heads.length > 0 && <Row cells={shape.heads} head />}
      {rows.map((row, i) => (
        <Row
          // biome-ignore lint/suspicious/noArrayIndexKey: rows have no other name
          key={i}
          number={shape.numbered ? i + 1 : undefined}
          cells={row}
          head={i === 0 && Boolean(filled.head)}
          onCell={typed ? (cell, said) => put(i, cell, said) : undefined}
          where={`row ${i + 1}`}
        />
      ))}
    </span>
  );
}

type RowProps = {
  cells: string[];
  head: boolean;
  number?: number;
  /** Where the row stands, for those who do not see it. */
  where?: string;
  /** Takes what is typed in a cell. */
  onCell?: (cell: number, said: string) => void;
};

function Row({ cells, head, number, where, onCell }: RowProps) {
  return (
    <span className={`flex gap-4 border-b border-linen2 py-[3px] ${head ? "font-semibold" : ""}`}>
      {number !== undefined && <span className="flex-1">{number}</span>}
      {cells.map((cell, i) => (
        <span // biome-ignore lint/suspicious/noArrayIndexKey: cells have no other name
          key={i}
          className="min-w-0 flex-1"
        >
          {onCell ? (
            <input
              aria-label={`Cell ${i + 1} of ${where}`}
              value={cell}
              onChange={(event) => onCell(i, event.target.value)}
              className="w-full bg-transparent outline-none focus:bg-white"
            />
          ) : (
            cell
          )}
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
