// Where a page is to stand: under which page, and before which of those already there.
import { useState } from "react";
import { ProblemError } from "../api/client";
import { HowFar } from "../shared/changes/HowFar";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { PlacePicker } from "../shared/PlacePicker";
import { type TreeName, useChildren } from "../shared/tree/nodes";
import { Button, ErrorNotice, INPUT, Labelled } from "../shared/ui";
import type { Page } from "./useDesk";
import { useMove } from "./usePlaces";

export function MovePage({ page, open, onClose }: { page: Page; open: boolean; onClose: () => void }) {
  return (
    <Dialog open={open} onClose={onClose} title={`Move ${page.title}`}>
      <Form page={page} onClose={onClose} />
    </Dialog>
  );
}

function Form({ page, onClose }: { page: Page; onClose: () => void }) {
  const tree = page.tree as TreeName;
  const [to, setTo] = useState(page.parent ?? "");
  const [before, setBefore] = useState("");
  const move = useMove();
  const siblings = useChildren(tree, to).data?.filter(({ id }) => id !== page.id) ?? [];
  const problem = move.error instanceof ProblemError ? move.error : null;
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        const place = { before: before || null, ...(to === page.parent ? {} : { to }) };
        move.mutate({ node: page.id, version: page.version, ...place }, { onSuccess: onClose });
      }}
    >
      <Labelled label="Under" error={problem?.at("/to")}>
        {(id, by) => (
          <PlacePicker
            id={id}
            describedBy={by}
            tree={tree}
            but={page.id}
            value={to}
            onPick={(id) => {
              setTo(id);
              setBefore("");
            }}
          />
        )}
      </Labelled>
      <Labelled label="Before" error={problem?.at("/before")} hint="What is beneath it goes with it.">
        {(id, by) => (
          <select
            id={id}
            aria-describedby={by}
            value={before}
            onChange={(event) => setBefore(event.target.value)}
            className={INPUT}
          >
            <option value="">nothing: at the end</option>
            {siblings.map(({ id, title }) => (
              <option key={id} value={id}>
                {title}
              </option>
            ))}
          </select>
        )}
      </Labelled>
      {problem && !problem.problem.errors && <ErrorNotice error={problem} />}
      <HowFar underWay={move.isPending} what="Moving it with what is beneath" />
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button type="submit" look="main" disabled={move.isPending}>
          Move it
        </Button>
      </DialogButtons>
    </form>
  );
}
