// Define: the roles, the board of the chosen one, and the chosen cell as a sentence.
import { useMemo, useRef, useState } from "react";
import { useParams } from "react-router";
import { headOf, wordsOf } from "../shared/capability";
import { count } from "../shared/time";
import { Button, Chip, Empty, ErrorNotice, INPUT, Loading } from "../shared/ui";
import { useHotkey } from "../shared/useHotkey";
import { useParam } from "../shared/useParam";
import { type Catalogue, type Role, useCatalogue, useRoles } from "../shared/useRoles";
import { Board } from "./Board";
import { BulkActions, type Proposal, ProposalBar } from "./BulkActions";
import { CellPanel } from "./CellPanel";
import { DiffersFrom } from "./DiffersFrom";
import { rowsOf } from "./grid";
import { Parts } from "./Parts";
import { type Answers, asShipped } from "./patterns";
import { RoleHead } from "./RoleHead";
import { RoleList } from "./RoleList";
import { type Cell, effective, plain, sentence } from "./sentence";
import { type Board as BoardData, useBoard, useLookAt, useSetAnswers, withAnswers } from "./useBoard";

export function DefinePlace() {
  const roles = useRoles();
  const catalogue = useCatalogue();
  const chosen = useParams().role ?? roles.data?.find((role) => !role.baseline)?.key ?? "everyone";
  if (roles.error) return <ErrorNotice error={roles.error} again={roles.refetch} />;
  if (!roles.data || !catalogue.data) return <Loading what="the roles" />;
  const role = roles.data.find(({ key }) => key === chosen);
  return (
    <>
      <RoleList roles={roles.data} chosen={chosen} />
      {role ? (
        <RoleBoard key={role.key} role={role} roles={roles.data} catalogue={catalogue.data} />
      ) : (
        <Empty title="There is no such role">Choose one on the left.</Empty>
      )}
    </>
  );
}

const SHOWS: Record<string, { name: string; keep: (cell: Cell) => boolean }> = {
  "": { name: "Everything", keep: () => true },
  given: { name: "Given", keep: (cell) => !["barred", "withheld", null].includes(cell.said) },
  barred: { name: "Barred", keep: (cell) => effective(cell).says === "barred" },
  inherited: { name: "Inherited", keep: (cell) => effective(cell).source !== "own" },
  staged: { name: "Staged", keep: (cell) => cell.staged },
};

const NOTHING: Answers = new Map();

/** All that is risky about a role: single duties, and what its parts make together. */
function Risks({ risks }: { risks: BoardData["risks"] }) {
  return (
    <ul aria-label="Risks" className="my-1 rounded border border-line bg-paper px-3 py-1.5 text-sm">
      {risks.map(({ what, why }) => (
        <li key={what + why} className="py-[2px]">
          <strong>May {what}.</strong> {why}
        </li>
      ))}
    </ul>
  );
}

/** Capabilities given that carry a risk. */
function riskyOf(catalogue: Catalogue) {
  const risky = new Set(catalogue.duties.filter(({ risk }) => risk).map(({ key }) => key));
  return {
    name: "Risky",
    keep: (cell: Cell) => risky.has(cell.capability) && effective(cell).given,
  };
}

/** Capabilities that nobody has looked at yet. */
function newOf(catalogue: Catalogue) {
  const fresh = new Set(catalogue.new);
  return { name: "New", keep: (cell: Cell) => fresh.has(cell.capability) };
}

/** Capabilities that count otherwise in another role, once its board is there. */
function differing(role: Role | undefined, other: Map<string, Cell> | undefined) {
  if (!role || !other) return {};
  const keep = (cell: Cell) => {
    const there = other.get(cell.capability);
    return there !== undefined && effective(there).says !== effective(cell).says;
  };
  return { differs: { name: `Differs from ${role.name}`, keep } };
}

function RoleBoard({ role, roles, catalogue }: { role: Role; roles: Role[]; catalogue: Catalogue }) {
  const board = useBoard(role.key);
  const { setAnswers, error } = useSetAnswers(role.key);
  const [proposal, propose] = useState<Proposal | null>(null);
  const [selected, select] = useState<Set<string>>(new Set());
  const [folded, setFolded] = useParam("folded");
  const [announcement, announce] = useState("");
  const [chosen, choose] = useParam("cell");
  const [show, setShow] = useParam("show");
  const [words, setWords] = useParam("words");
  const [differs, setDiffers] = useParam("from");
  const compared = useBoard(differs);
  const lookAt = useLookAt();
  const filter = useRef<HTMLInputElement>(null);
  const cells = useMemo(
    () => new Map(board.data?.cells.map((cell) => [cell.capability, cell])),
    [board.data],
  );
  const answers = proposal?.answers ?? NOTHING;
  const drawn = useMemo(
    () => new Map([...cells].map(([capability, cell]) => [capability, withAnswers(cell, answers)])),
    [cells, answers],
  );
  const named = useMemo(() => new Map(roles.map((r) => [r.key, r])), [roles]);

  useHotkey({ key: "/" }, () => filter.current?.focus());

  if (board.error) return <ErrorNotice error={board.error} again={board.refetch} />;
  if (!board.data) return <Loading what="the board" />;

  const all = [...cells.values()];
  const { shipped, risks } = board.data;
  const other = compared.data && new Map(compared.data.cells.map((cell) => [cell.capability, cell]));
  const shows = {
    ...SHOWS,
    risky: riskyOf(catalogue),
    new: newOf(catalogue),
    ...differing(named.get(differs), other),
  };
  const keep = shows[show as keyof typeof shows]?.keep ?? (() => true);
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  const shown = (capability: string) => {
    const cell = cells.get(capability);
    if (!cell || !keep(cell)) return false;
    if (wanted.length === 0) return true;
    const { verb, thing } = wordsOf(capability, catalogue);
    const text = `${headOf(capability, catalogue)} ${verb} ${thing}`.toLowerCase();
    return wanted.every((word) => text.includes(word));
  };
  const rows = rowsOf(catalogue, shown);
  const closed = folded.split(",").filter(Boolean);
  const unfolded = rows.filter(({ area }) => !closed.includes(area));
  const current = drawn.get(chosen) ?? drawn.get(unfolded[0]?.capabilities[0] ?? "");
  const meant = (selected.size > 1 ? [...selected] : rows.flatMap(({ capabilities }) => capabilities))
    .map((capability) => cells.get(capability))
    .filter((cell) => cell !== undefined);
  const row = rows.find(({ capabilities }) => capabilities.includes(current?.capability ?? ""));

  function backToBoard() {
    propose(null);
    filter.current?.closest("section")?.querySelector<HTMLElement>("[role=gridcell][tabindex='0']")?.focus();
  }

  function copyText() {
    const sentences = all
      .filter((cell) => effective(cell).says !== null)
      .map((cell) => plain(sentence(role, cell, catalogue)));
    navigator.clipboard
      .writeText(`${role.name}\n\n${sentences.join("\n")}\n`)
      .then(() => announce(`${count(sentences.length, "sentence")} copied.`))
      .catch(() => announce("The sentences could not be copied: this browser does not allow it."));
  }
  return (
    <>
      <section
        data-scrolls
        className="flex min-w-0 flex-1 flex-col overflow-y-auto px-[20px] pt-[28px] pb-8 max-[1180px]:px-[12px]"
      >
        <RoleHead
          role={role}
          roles={roles}
          onCopyText={copyText}
          onPutBack={
            shipped
              ? () => propose({ name: "Put back as it came", answers: asShipped(all, shipped) })
              : undefined
          }
        >
          <span className="flex shrink-0 items-center gap-[5px]">
            <BulkActions
              cells={cells}
              meant={meant}
              selected={selected.size > 1}
              kind={row && !row.duties ? row.key : null}
              catalogue={catalogue}
              onPropose={propose}
            />
            <label className="relative w-[104px]">
              <span className="sr-only">Filter capabilities by words</span>
              <input
                ref={filter}
                value={words}
                onChange={(event) => setWords(event.target.value)}
                placeholder="Filter"
                className={`${INPUT} rounded-full! pr-7`}
              />
              <kbd className="pointer-events-none absolute top-[5px] right-2.5 rounded border border-line px-1 text-tiny text-ink2">
                /
              </kbd>
            </label>
          </span>
        </RoleHead>
        <p role="status" className="text-xs text-ink2">
          {announcement}
        </p>
        <div className="mt-2 mb-1 flex flex-wrap items-center gap-[5px]">
          {Object.entries(shows).map(([key, { name, keep }]) => {
            const n = key === "risky" ? risks.length : key ? all.filter(keep).length : 0;
            if (key && n === 0 && show !== key) return null;
            return (
              <Chip key={key} on={show === key} onClick={() => setShow(key)}>
                {name}
                {n > 0 && <span className="figures font-normal">{n}</span>}
              </Chip>
            );
          })}
          <DiffersFrom
            roles={roles.filter(({ key }) => key !== role.key)}
            onPick={(key) => {
              setDiffers(key);
              setShow("differs");
            }}
          />
        </div>
        <ErrorNotice error={error ?? lookAt.error} />
        {show === "new" && rows.length > 0 && (
          <div className="my-1 flex items-center gap-3 rounded border border-line bg-paper px-3 py-1.5 text-sm">
            <span>These came with an extension or a new kind of content. Nobody was given them.</span>
            <span className="flex-1" />
            <Button
              disabled={lookAt.isPending}
              onClick={() => lookAt.mutate(rows.flatMap(({ capabilities }) => capabilities.filter(shown)))}
            >
              I have looked at them
            </Button>
          </div>
        )}
        {show === "risky" && <Risks risks={risks} />}
        {proposal && (
          <ProposalBar
            role={role.key}
            proposal={proposal}
            onStage={() => {
              setAnswers(proposal.answers);
              backToBoard();
            }}
            onCancel={backToBoard}
          />
        )}
        {rows.length === 0 ? (
          show !== "risky" && (
            <Empty title="Nothing here">
              No capability of this role is like that. Choose Everything to see all.
            </Empty>
          )
        ) : (
          <Board
            role={role}
            rows={rows}
            cells={drawn}
            catalogue={catalogue}
            chosen={current?.capability ?? ""}
            onChoose={choose}
            onSetAnswer={role.baseline ? (answers) => propose({ name: "The baseline", answers }) : setAnswers}
            onSelect={select}
            proposed={answers}
            folded={closed}
            onFold={(area) =>
              setFolded(
                (closed.includes(area) ? closed.filter((one) => one !== area) : [...closed, area]).join(),
              )
            }
          />
        )}
        {show === "" && words === "" && (
          <Parts role={role} roles={named} board={board.data} catalogue={catalogue} />
        )}
      </section>
      {current && (
        <CellPanel
          role={role}
          cell={current}
          catalogue={catalogue}
          roles={named}
          onSetAnswer={(says) => {
            const answers = new Map([[current.capability, says]]);
            if (role.baseline) propose({ name: "The baseline", answers });
            else setAnswers(answers);
          }}
        />
      )}
    </>
  );
}
