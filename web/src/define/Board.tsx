// The board: kinds of content by verbs, and duties, as one ARIA grid worked by mouse and keyboard.

import { ChevronDown } from "lucide-react";
import {
  type KeyboardEvent,
  memo,
  type ReactNode,
  useCallback,
  useEffect,
  useMemo,
  useRef,
  useState,
} from "react";
import { colourOf } from "../cloth/colours";
import { extentSaid, Mark } from "../cloth/Mark";
import { nameOf } from "../shared/capability";
import type { Catalogue, Role } from "../shared/useRoles";
import { between, find, moved, type Place, type Row } from "./grid";
import type { Answers } from "./patterns";
import { meantBy, saidByKey } from "./selection";
import { type Cell, effective, plain, sentence } from "./sentence";
import { boardItems, useVirtualItems } from "./virtual";

type BoardProps = {
  role: Role;
  rows: Row[];
  cells: Map<string, Cell>;
  catalogue: Catalogue;
  chosen: string;
  onChoose: (capability: string) => void;
  onSetAnswer: (answers: Answers) => void;
  onSelect: (selected: Set<string>) => void;
  /** Cells that a proposal would change. */
  proposed: Answers;
  folded: string[];
  onFold: (area: string) => void;
};

export function Board(props: BoardProps) {
  const { role, rows, cells, catalogue, chosen, onChoose, onSetAnswer, onSelect, proposed, folded, onFold } =
    props;
  const grid = useRef<HTMLDivElement>(null);
  const at: Place = find(rows, chosen) ?? { row: 0, column: 0 };
  const current = rows[at.row]?.capabilities[at.column] ?? "";
  const [anchor, setAnchor] = useState<string>("");
  const [extending, extend] = useState(false);
  const [announcement, announce] = useState("");
  const from = anchor ? (find(rows, anchor) ?? at) : at;
  const selected = between(rows, from, at);
  const follow = useRef(false);
  const fresh = useMemo(() => new Set(catalogue.new), [catalogue]);

  useEffect(() => {
    if (follow.current) grid.current?.querySelector<HTMLElement>(`[data-capability="${current}"]`)?.focus();
    follow.current = false;
  }, [current]);

  function choose(place: Place, extend: boolean) {
    const capability = rows[place.row]?.capabilities[place.column];
    if (!capability) return;
    const start = extend ? anchor || current : "";
    setAnchor(start);
    onSelect(start ? between(rows, find(rows, start) ?? place, place) : new Set());
    follow.current = true;
    onChoose(capability);
  }

  function key(event: KeyboardEvent) {
    const next = moved(rows, at, event.key, event.ctrlKey);
    if (next) {
      event.preventDefault();
      choose(next, event.shiftKey || extending);
      return;
    }
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.key === "x" || event.key === "Escape") {
      if (event.key === "Escape") choose(at, false);
      else if (!extending) setAnchor(current);
      extend(event.key === "x" && !extending);
      return;
    }
    const answers = saidByKey(event.key, meantBy(current, selected, cells));
    if (!answers) {
      if ("otaywb".includes(event.key) && event.key.length === 1) {
        announce("Kinds of content take o, t and a; duties take y.");
      }
      return;
    }
    event.preventDefault();
    announce([...answers.values()][0] ?? "Nothing said");
    onSetAnswer(answers);
  }

  // Cells are drawn anew only when something of theirs changes: what they call must stay the same.
  const latest = useRef(choose);
  latest.current = choose;
  const places = useRef(rows);
  places.current = rows;
  const pick = useCallback((capability: string, extend: boolean) => {
    const place = find(places.current, capability);
    if (place) latest.current(place, extend);
  }, []);

  const items = boardItems(rows, folded);
  const place = rows[at.row];
  const held = items.findIndex((item) => item.row === place);
  const { list, virtual } = useVirtualItems(items, held);
  return (
    <>
      <p role="status" className="sr-only">
        {announcement}
      </p>
      <div
        ref={grid}
        role="grid"
        aria-label={`Board of ${role.name}`}
        aria-rowcount={items.length}
        aria-multiselectable
        onKeyDown={key}
        tabIndex={-1}
      >
        {rows.some((row) => !row.duties) && <Heads catalogue={catalogue} />}
        <div
          ref={list}
          role="rowgroup"
          style={{ height: virtual.getTotalSize() }}
          className="relative [contain:layout]"
        >
          {virtual.getVirtualItems().map(({ index, start }) => {
            const item = items[index];
            if (!item) return null;
            return (
              <div
                key={item.row?.key ?? item.area}
                ref={virtual.measureElement}
                data-index={index}
                role="row"
                aria-rowindex={index + 1}
                style={{ transform: `translateY(${start - virtual.options.scrollMargin}px)` }}
                className={`absolute inset-x-0 top-0 ${item.row ? (item.row.duties ? DUTIES : KIND) : AREA}`}
              >
                {item.row ? (
                  <RowCells row={item.row} fresh={fresh}>
                    {item.row.capabilities.map((capability) => {
                      const cell = cells.get(capability);
                      return cell ? (
                        <BoardCell
                          key={capability}
                          cell={cell}
                          role={role}
                          catalogue={catalogue}
                          name={item.row?.duties ? nameOf(capability, catalogue) : undefined}
                          fresh={fresh.has(capability)}
                          current={capability === current}
                          selected={selected.size > 1 && selected.has(capability)}
                          proposed={proposed.has(capability)}
                          onPick={pick}
                        />
                      ) : null;
                    })}
                  </RowCells>
                ) : (
                  <AreaHead
                    area={item.area}
                    folded={folded.includes(item.area)}
                    onFold={() => onFold(item.area)}
                  />
                )}
              </div>
            );
          })}
        </div>
      </div>
    </>
  );
}

const COLUMNS = "grid grid-cols-[minmax(116px,280px)_repeat(11,minmax(36px,84px))]";
const KIND = `${COLUMNS} h-[35px] items-center border-b border-linen2`;
const DUTIES = "grid grid-cols-5 gap-x-1 pt-2";
const AREA = "border-b border-line pt-[10px] pb-[2px]";

type RowProps = { row: Row; fresh: Set<string>; children: ReactNode };

function RowCells({ row, fresh, children }: RowProps) {
  if (row.duties) return children;
  return (
    <>
      <div role="rowheader" className="flex items-center gap-1.5 pr-2 font-semibold">
        <span className="truncate" title={row.name}>
          {row.name}
        </span>
        {row.capabilities.some((capability) => fresh.has(capability)) && <New />}
      </div>
      {children}
    </>
  );
}

function New() {
  return <span className="rounded-[3px] bg-[#f1dcae] px-1 text-micro font-semibold text-ink">new</span>;
}

function Heads({ catalogue }: { catalogue: Catalogue }) {
  return (
    <div
      role="row"
      className={`${COLUMNS} sticky -top-[28px] z-10 items-end border-b border-line bg-linen pt-2 pb-1 text-center text-tiny leading-[1.1] text-ink2 max-[1180px]:text-micro`}
    >
      <span role="columnheader">
        <span className="sr-only">Kind</span>
      </span>
      {catalogue.verbs.map((verb) => (
        <span key={verb.key} role="columnheader">
          {verb.name}
        </span>
      ))}
    </div>
  );
}

type AreaProps = { area: string; folded: boolean; onFold: () => void };

function AreaHead({ area, folded, onFold }: AreaProps) {
  return (
    <div role="rowheader" aria-colspan={12}>
      <button
        type="button"
        aria-expanded={!folded}
        onClick={onFold}
        className="flex items-center gap-1 rounded text-note font-semibold text-ink2"
      >
        <ChevronDown size={14} aria-hidden="true" className={folded ? "-rotate-90" : ""} />
        {area}
      </button>
    </div>
  );
}

type CellProps = {
  cell: Cell;
  role: Role;
  catalogue: Catalogue;
  name?: string;
  fresh: boolean;
  current: boolean;
  selected: boolean;
  proposed: boolean;
  onPick: (capability: string, extend: boolean) => void;
};

const BoardCell = memo(function BoardCell(props: CellProps) {
  const { cell, role, catalogue, name, fresh, current, selected, proposed, onPick } = props;
  const { says, source } = effective(cell);
  const text = plain(sentence(role, cell, catalogue));
  return (
    <div
      role="gridcell"
      aria-selected={current || selected}
      aria-label={name ? `${name}${fresh ? " new" : ""}: ${text}` : text}
      title={text}
      tabIndex={current ? 0 : -1}
      data-capability={cell.capability}
      onMouseDown={(event) => event.shiftKey && event.preventDefault()}
      onClick={(event) => onPick(cell.capability, event.shiftKey)}
      className={`flex cursor-pointer items-center rounded-[4px] outline-offset-[-2px] ${
        name ? "gap-2 px-1 py-[3px] text-left" : "mx-auto h-[31px] w-[34px] justify-center pt-[2px]"
      } ${proposed ? "bg-[#f6e3b4]" : selected ? "bg-chosen" : ""} ${
        current ? "shadow-[inset_0_0_0_1.6px_var(--color-rod)]" : "hover:bg-linen2"
      }`}
    >
      <Mark
        extent={extentSaid(says)}
        colour={colourOf(role.cloth)}
        inherited={source !== "own"}
        staged={cell.staged}
        label={says ?? "nothing said"}
      />
      {name && (
        <span className="text-note leading-tight">
          {name} {fresh && <New />}
        </span>
      )}
    </div>
  );
});
