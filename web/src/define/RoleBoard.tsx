// The board of one role with what is shown of it, what is proposed for it, and the chosen cell.
import { useMemo, useRef, useState } from "react";
import type { Operation } from "../shared/changes/changeSet";
import { count } from "../shared/time";
import { Empty, ErrorNotice, Loading } from "../shared/ui";
import { useParam } from "../shared/useParam";
import type { Catalogue, Role } from "../shared/useRoles";
import { Board } from "./Board";
import { Misfits, NewNotice, Risks } from "./BoardNotices";
import { BulkActions, type Proposal, ProposalBar } from "./BulkActions";
import { CellPanel } from "./CellPanel";
import { Parts } from "./Parts";
import { type Answers, asShipped } from "./patterns";
import { RoleHead } from "./RoleHead";
import { ShowChips } from "./ShowChips";
import { meantBy, saidIn } from "./selection";
import { effective, plain, sentence } from "./sentence";
import { type Board as BoardData, useBoard, useSetAnswers, withAnswers } from "./useBoard";
import { cellsOf, useFolded, useShown } from "./useShown";
import { WordFilter } from "./WordFilter";

type Props = { role: Role; roles: Role[]; catalogue: Catalogue };

export function RoleBoard(props: Props) {
  const board = useBoard(props.role.key);
  if (board.error) return <ErrorNotice error={board.error} again={board.refetch} />;
  if (!board.data) return <Loading what="the board" />;
  return <Loaded {...props} board={board.data} />;
}

const NOTHING: Answers = new Map();

function Loaded({ role, roles, catalogue, board }: Props & { board: BoardData }) {
  const { setAnswers, error } = useSetAnswers(role.key);
  const [proposal, propose] = useState<Proposal | null>(null);
  const [selected, select] = useState<Set<string>>(new Set());
  const [announcement, announce] = useState("");
  const [chosen, choose] = useParam("cell");
  const [folded, fold] = useFolded();
  const filter = useRef<HTMLInputElement>(null);
  const named = useMemo(() => new Map(roles.map((r) => [r.key, r])), [roles]);
  const cells = useMemo(() => cellsOf(board), [board]);
  const { show, setShow, words, setWords, shows, shown, rows, showDifferent } = useShown(
    cells,
    board.sections,
    named,
    catalogue,
  );
  const answers = proposal?.answers ?? NOTHING;
  const drawn = useMemo(
    () => new Map([...cells].map(([capability, cell]) => [capability, withAnswers(cell, answers)])),
    [cells, answers],
  );

  const { shipped, risks } = board;
  const open = rows.filter(({ area }) => !folded.includes(area));
  const current = drawn.get(chosen) ?? drawn.get(open[0]?.capabilities[0] ?? "");
  const row = rows.find(({ capabilities }) => capabilities.includes(current?.capability ?? ""));
  const meant = (selected.size > 1 ? [...selected] : rows.flatMap(({ capabilities }) => capabilities))
    .map((capability) => cells.get(capability))
    .filter((cell) => cell !== undefined);

  /** A baseline holds for everyone: what is said in it is proposed first. */
  function setOrPropose(answers: Answers) {
    if (role.baseline) propose({ name: "The baseline", answers });
    else setAnswers(answers);
  }

  function backToBoard() {
    propose(null);
    filter.current?.closest("section")?.querySelector<HTMLElement>("[role=gridcell][tabindex='0']")?.focus();
  }

  function copyText() {
    const sentences = board.cells
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
              ? () =>
                  propose({
                    name: "Put back as it came",
                    answers: asShipped(board.cells, shipped),
                    also: board.put_back as Operation[],
                  })
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
            <WordFilter words={words} onWords={setWords} input={filter} />
          </span>
        </RoleHead>
        <p role="status" className="text-xs text-ink2">
          {announcement}
        </p>
        <ShowChips
          shows={shows}
          show={show}
          onShow={setShow}
          countOf={(key) =>
            key === "risky"
              ? risks.length
              : key === "amiss"
                ? board.sections.length
                : board.cells.filter(shows[key]?.keep ?? (() => false)).length
          }
          others={roles.filter(({ key }) => key !== role.key)}
          onDiffers={showDifferent}
        />
        <ErrorNotice error={error} />
        {show === "new" && rows.length > 0 && (
          <NewNotice capabilities={rows.flatMap(({ capabilities }) => capabilities.filter(shown))} />
        )}
        {show === "risky" && <Risks risks={risks} />}
        {show === "amiss" && board.sections.length > 0 && (
          <Misfits sections={board.sections} catalogue={catalogue} onSet={setOrPropose} />
        )}
        {proposal && (
          <ProposalBar
            role={role.key}
            proposal={proposal}
            onStage={() => {
              setAnswers(proposal.answers, proposal.also);
              backToBoard();
            }}
            onCancel={backToBoard}
          />
        )}
        {rows.length > 0 && (
          <Board
            role={role}
            rows={rows}
            cells={drawn}
            catalogue={catalogue}
            chosen={current?.capability ?? ""}
            onChoose={choose}
            onSetAnswer={setOrPropose}
            onSelect={select}
            proposed={answers}
            folded={folded}
            onFold={fold}
          />
        )}
        {rows.length === 0 && show !== "risky" && (
          <Empty title="Nothing here">
            No capability of this role is like that. Choose Everything to see all.
          </Empty>
        )}
        {show === "" && words === "" && (
          <Parts role={role} roles={named} board={board} catalogue={catalogue} />
        )}
      </section>
      {current && (
        <CellPanel
          role={role}
          cell={current}
          catalogue={catalogue}
          roles={named}
          selected={selected.has(current.capability) ? selected.size : 0}
          onSetAnswer={(says) => setOrPropose(saidIn(meantBy(current.capability, selected, cells), says))}
        />
      )}
    </>
  );
}
