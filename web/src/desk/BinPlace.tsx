// The bin: what was removed, to be brought back where it stood or elsewhere, or emptied for good.

import { useState } from "react";
import { useNavigate } from "react-router";
import { ProblemError } from "../api/client";
import { ClosedRows } from "../shared/Closed";
import { HowFar } from "../shared/changes/HowFar";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { PlacePicker } from "../shared/PlacePicker";
import { useLooksOnly } from "../shared/session";
import { count, day, when } from "../shared/time";
import type { TreeName } from "../shared/tree/nodes";
import { Button, Empty, ErrorNotice, Labelled, Loading } from "../shared/ui";
import { useCatalogue } from "../shared/useRoles";
import { type BinRow, useBin, useBringBack, useEmpty } from "./usePlaces";

export function BinPlace() {
  const bin = useBin();
  return (
    <section
      aria-label="Bin"
      className="min-w-0 flex-1 overflow-y-auto px-[30px] pt-[30px] max-[760px]:px-3 max-[760px]:pt-4 pb-8"
    >
      <h1>Bin</h1>
      <p className="text-sm text-ink2">What you may bring back. Nothing in here is on a site, or found.</p>
      {bin.error && <ErrorNotice error={bin.error} again={bin.refetch} />}
      {bin.isPending && <Loading what="the bin" />}
      {bin.data?.length === 0 && (
        <Empty title="The bin is empty">What is removed on the desk is kept here for a while.</Empty>
      )}
      <ul className="mt-4 max-w-[860px]">
        {bin.data?.map((row) => (
          <Row key={row.id} row={row} />
        ))}
      </ul>
      <ClosedRows of="bin" />
    </section>
  );
}

function Row({ row }: { row: BinRow }) {
  const [dialog, show] = useState<"" | "elsewhere" | "empty">("");
  const navigate = useNavigate();
  const back = useBringBack(({ id }) => gone(id));
  const looks = useLooksOnly();
  const kind = useCatalogue().data?.types.find(({ key }) => key === row.type)?.name ?? row.type;
  const gone = (id: string) => navigate(`/desk/${id}${row.tree === "media" ? "?tree=media" : ""}`);
  return (
    <li className="border-b border-line py-2.5">
      <div className="flex items-center gap-3">
        <div className="min-w-0 flex-1">
          <p className="truncate font-semibold">{row.title}</p>
          <p className="text-xs text-ink2">
            {kind}
            {row.beneath > 0 ? `, with ${count(row.beneath, "page")} beneath` : ""}; stood under{" "}
            {row.stood_under}. Removed by {row.removed_by} {when(row.removed_at)}, kept until{" "}
            {day(row.kept_until)} at least.
          </p>
        </div>
        {row.may_restore && !looks && (
          <>
            {row.parent && (
              <Button disabled={back.isPending} onClick={() => back.mutate({ node: row.id })}>
                Bring back
              </Button>
            )}
            <Button look="quiet" onClick={() => show("elsewhere")}>
              Elsewhere…
            </Button>
          </>
        )}
        {row.may_empty && !looks && (
          <Button look="quiet" onClick={() => show("empty")}>
            Empty for good…
          </Button>
        )}
      </div>
      <HowFar underWay={back.isPending} what="Bringing it back with what is beneath" />
      <ErrorNotice error={dialog ? null : back.error} />
      <Dialog open={dialog === "elsewhere"} onClose={() => show("")} title={`Bring back ${row.title}`}>
        <Elsewhere row={row} onClose={() => show("")} onBack={gone} />
      </Dialog>
      <Dialog open={dialog === "empty"} onClose={() => show("")} title={`Empty ${row.title} for good?`}>
        <ForGood row={row} onClose={() => show("")} />
      </Dialog>
    </li>
  );
}

type ElsewhereProps = { row: BinRow; onClose: () => void; onBack: (id: string) => void };

function Elsewhere({ row, onClose, onBack }: ElsewhereProps) {
  const [to, setTo] = useState("");
  const back = useBringBack(({ id }) => onBack(id));
  const problem = back.error instanceof ProblemError ? back.error : null;
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        back.mutate({ node: row.id, to });
      }}
    >
      <Labelled label="Under" error={problem?.at("/to") ?? problem?.problem.detail}>
        {(id, by) => (
          <PlacePicker id={id} describedBy={by} tree={row.tree as TreeName} value={to} onPick={setTo} />
        )}
      </Labelled>
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button type="submit" look="main" disabled={!to || back.isPending}>
          Bring it back
        </Button>
      </DialogButtons>
    </form>
  );
}

function ForGood({ row, onClose }: { row: BinRow; onClose: () => void }) {
  const empty = useEmpty();
  return (
    <>
      <p>
        {row.beneath > 0 ? `It goes with ${count(row.beneath, "page")} beneath it, ` : "It goes "}
        with all earlier versions and what was said under it. Nobody can bring it back.
      </p>
      <ErrorNotice error={empty.error} />
      <DialogButtons>
        <Button onClick={onClose}>Keep it</Button>
        <Button look="main" disabled={empty.isPending} onClick={() => empty.mutate(row.id)}>
          Empty it for good
        </Button>
      </DialogButtons>
    </>
  );
}
