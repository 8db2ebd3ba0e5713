// The board: kinds of content by verbs, and duties, as one ARIA grid worked by mouse and keyboard.
import { ChevronDown } from "lucide-react";
import { type KeyboardEvent, useEffect, useRef, useState } from "react";
import type { Catalogue, Role } from "../app/useRoles";
import { colourOf } from "../cloth/colours";
import { hangSaid, Mark } from "../cloth/Mark";
import { between, find, moved, type Place, type Row } from "./grid";
import type { Saying } from "./patterns";
import { type Cell, effective, plain, saidBy, sentence } from "./sentence";

type BoardProps = {
  role: Role;
  rows: Row[];
  cells: Map<string, Cell>;
  catalogue: Catalogue;
  chosen: string;
  onChoose: (capability: string) => void;
  onSay: (saying: Saying) => void;
  onSelect: (selected: Set<string>) => void;
  /** Cells that a proposal would change. */
  proposed: Saying;
  folded: string[];
  onFold: (area: string) => void;
};

export function Board(props: BoardProps) {
  const { role, rows, cells, catalogue, chosen, onChoose, onSay, onSelect, proposed, folded, onFold } = props;
  const grid = useRef<HTMLDivElement>(null);
  const at: Place = find(rows, chosen) ?? { row: 0, column: 0 };
  const current = rows[at.row]?.capabilities[at.column] ?? "";
  const [anchor, setAnchor] = useState<string>("");
  const [extending, extend] = useState(false);
  const [told, tell] = useState("");
  const from = anchor ? (find(rows, anchor) ?? at) : at;
  const selected = between(rows, from, at);
  const follow = useRef(false);

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
    const chosenCells = [...selected].map((c) => cells.get(c)).filter((c) => c !== undefined);
    const ready = chosenCells.filter(
      (cell) => saidBy(event.key, isDuty(cell.capability, catalogue)) !== undefined,
    );
    const first = ready[0];
    if (!first) {
      if ("otaywb".includes(event.key) && event.key.length === 1) {
        tell("Kinds of content take o, t and a; duties take y.");
      }
      return;
    }
    event.preventDefault();
    const says = saidBy(event.key, isDuty(first.capability, catalogue)) ?? null;
    tell(says === null ? "Nothing said" : says);
    onSay(new Map(ready.map((cell) => [cell.capability, says])));
  }

  const areas = [...new Set(rows.map((row) => row.area))];
  return (
    <>
      <p role="status" className="sr-only">
        {told}
      </p>
      <div
        ref={grid}
        role="grid"
        aria-label={`Board of ${role.name}`}
        aria-multiselectable
        onKeyDown={key}
        tabIndex={-1}
      >
        {rows.some((row) => !row.duties) && <Heads catalogue={catalogue} />}
        {areas.map((area) => (
          <div key={area} role="rowgroup" aria-label={area}>
            <AreaHead area={area} folded={folded.includes(area)} onFold={() => onFold(area)} />
            {rows.map((row, r) =>
              row.area === area && !folded.includes(area) ? (
                <div
                  key={row.key}
                  role="row"
                  className={
                    row.duties
                      ? "grid grid-cols-5 gap-x-1 pt-2"
                      : "grid h-[35px] grid-cols-[minmax(116px,1fr)_repeat(11,minmax(36px,52px))] items-center border-b border-linen2"
                  }
                >
                  {!row.duties && (
                    <div role="rowheader" className="truncate pr-2 font-semibold">
                      {row.name}
                    </div>
                  )}
                  {row.capabilities.map((capability, c) => {
                    const cell = cells.get(capability);
                    return cell ? (
                      <BoardCell
                        key={capability}
                        cell={cell}
                        role={role}
                        catalogue={catalogue}
                        name={
                          row.duties ? catalogue.duties.find((d) => d.key === capability)?.name : undefined
                        }
                        current={capability === current}
                        selected={selected.size > 1 && selected.has(capability)}
                        proposed={proposed.has(capability)}
                        onPick={(extend) => choose({ row: r, column: c }, extend)}
                      />
                    ) : null;
                  })}
                </div>
              ) : null,
            )}
          </div>
        ))}
      </div>
    </>
  );
}

function isDuty(capability: string, catalogue: Catalogue): boolean {
  return catalogue.duties.some((duty) => duty.key === capability);
}

function Heads({ catalogue }: { catalogue: Catalogue }) {
  return (
    <div
      role="row"
      className="sticky -top-[28px] z-10 grid grid-cols-[minmax(116px,1fr)_repeat(11,minmax(36px,52px))] items-end border-b border-line bg-linen pt-2 pb-1 text-center text-[11px] leading-[1.1] text-ink2"
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
    <div role="row" className="border-b border-line pt-[10px] pb-[2px]">
      <div role="rowheader" aria-colspan={12}>
        <button
          type="button"
          aria-expanded={!folded}
          onClick={onFold}
          className="flex items-center gap-1 rounded text-[12.5px] font-semibold text-ink2"
        >
          <ChevronDown size={14} aria-hidden="true" className={folded ? "-rotate-90" : ""} />
          {area}
        </button>
      </div>
    </div>
  );
}

type CellProps = {
  cell: Cell;
  role: Role;
  catalogue: Catalogue;
  name?: string;
  current: boolean;
  selected: boolean;
  proposed: boolean;
  onPick: (extend: boolean) => void;
};

function BoardCell({ cell, role, catalogue, name, current, selected, proposed, onPick }: CellProps) {
  const { says, source } = effective(cell);
  const text = plain(sentence(role, cell, catalogue));
  return (
    <div
      role="gridcell"
      aria-selected={current || selected}
      aria-label={name ? `${name}: ${text}` : text}
      title={text}
      tabIndex={current ? 0 : -1}
      data-capability={cell.capability}
      onMouseDown={(event) => event.shiftKey && event.preventDefault()}
      onClick={(event) => onPick(event.shiftKey)}
      className={`flex cursor-pointer items-center rounded-[4px] outline-offset-[-2px] ${
        name ? "gap-2 px-1 py-[3px] text-left" : "mx-auto h-[31px] w-[34px] justify-center pt-[2px]"
      } ${proposed ? "bg-[#f6e3b4]" : selected ? "bg-chosen" : ""} ${
        current ? "shadow-[inset_0_0_0_1.6px_var(--color-rod)]" : "hover:bg-linen2"
      }`}
    >
      <Mark
        hang={hangSaid(says)}
        colour={colourOf(role.cloth)}
        inherited={source !== "own"}
        staged={cell.staged}
        label={says ?? "nothing said"}
      />
      {name && <span className="text-[12.5px] leading-tight">{name}</span>}
    </div>
  );
}
