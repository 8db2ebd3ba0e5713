// Standing in for somebody at another moment: as they would be when something begins or ends, or as they were.
import { type FormEvent, useState } from "react";
import { ProblemError } from "../api/client";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { useStandIn } from "../shared/session";
import { Button, Chip, ErrorNotice, INPUT, Labelled } from "../shared/ui";

const DAY = 86_400_000;
const MOMENTS = [
  { name: "A week ago", days: -7 },
  { name: "In a week", days: 7 },
  { name: "In a month", days: 30 },
  { name: "In a year", days: 365 },
];

type Props = { open: boolean; onClose: () => void; account: string; name: string };

export function StandInAt({ open, onClose, account, name }: Props) {
  return (
    <Dialog open={open} onClose={onClose} title={`Stand in for ${name} at another time`}>
      {open && <Choice account={account} onClose={onClose} />}
    </Dialog>
  );
}

function Choice({ account, onClose }: Pick<Props, "account" | "onClose">) {
  const [moment, choose] = useState(() => written(7));
  const standIn = useStandIn();
  const problem = standIn.error instanceof ProblemError ? standIn.error : null;
  const past = moment !== "" && new Date(moment).getTime() < Date.now();

  function submit(event: FormEvent) {
    event.preventDefault();
    standIn.mutate({ account, at: new Date(moment).toISOString() });
  }

  return (
    <form onSubmit={submit} noValidate>
      <Labelled
        label="When"
        hint={
          past
            ? "Roles, groups and limits as they were then, over the pages as they are now."
            : "What begins by then has begun, and what ends by then is over."
        }
        error={problem?.at("/at")}
      >
        {(id, by) => (
          <input
            id={id}
            aria-describedby={by}
            type="datetime-local"
            value={moment}
            onChange={(event) => choose(event.target.value)}
            className={INPUT}
          />
        )}
      </Labelled>
      <div className="flex flex-wrap gap-1.5">
        {MOMENTS.map(({ name, days }) => (
          <Chip key={days} on={moment === written(days)} onClick={() => choose(written(days))}>
            {name}
          </Chip>
        ))}
      </div>
      {!problem?.problem.errors && <ErrorNotice error={standIn.error} />}
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button type="submit" look="main" disabled={moment === "" || standIn.isPending}>
          Stand in
        </Button>
      </DialogButtons>
    </form>
  );
}

/** Some days from now, as the input writes moments: in the reader's own time, without seconds. */
function written(days: number): string {
  const at = new Date(Date.now() + days * DAY);
  return new Date(at.getTime() - at.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);
}
