// Who was asked to try a role, asking somebody else, and taking the list away.
import { type FormEvent, useState } from "react";
import { useNavigate } from "react-router";
import { ProblemError } from "../../api/client";
import { Dialog, DialogButtons } from "../../shared/Dialog";
import { PersonPicker } from "../../shared/pickers";
import { useDuty, useSession } from "../../shared/session";
import { day } from "../../shared/time";
import { Button, ErrorNotice, INPUT, Labelled } from "../../shared/ui";
import {
  useDropWalkList,
  useGiveWalkList,
  useTakeWalkListBack,
  type WalkList,
} from "../../shared/walks/useWalks";

export function Walkers({ list }: { list: WalkList }) {
  const keeps = useDuty("expectations.keep");
  const seesPeople = useDuty("roster.see");
  const standing = useSession().data?.standing_in;
  const takeBack = useTakeWalkListBack(list.id ?? "");
  const [asking, ask] = useState(false);
  const [dropping, drop] = useState(false);
  if (!keeps || standing) return null;
  return (
    <aside
      aria-label="Who was asked to try it"
      className="w-[316px] shrink-0 overflow-y-auto border-l border-line bg-linen2 px-[18px] pt-[30px] pb-8 max-[900px]:w-full max-[900px]:border-0"
    >
      <h2 className="mb-1">Asked to try it</h2>
      <p className="text-sm text-ink2">
        Each signs in as themselves and tries it in a rehearsal of their own. What any of them does counts
        here.
      </p>
      <ErrorNotice error={takeBack.error} />
      <ul className="mt-2">
        {list.walkers.map((walker) => (
          <li key={walker.account ?? walker.at} className="flex items-start gap-2 border-b border-line py-2">
            <span className="min-w-0 flex-1">
              <span className="block font-semibold">{walker.name}</span>
              <span className="block text-xs text-ink2">
                asked by {walker.by}, {day(walker.at)}
              </span>
              {walker.word && <span className="block text-sm">{walker.word}</span>}
            </span>
            {walker.account && (
              <Button
                look="quiet"
                disabled={takeBack.isPending}
                aria-label={`Ask no more: ${walker.name}`}
                onClick={() => takeBack.mutate(walker.account ?? "")}
              >
                Ask no more
              </Button>
            )}
          </li>
        ))}
      </ul>
      {seesPeople && (
        <Button className="mt-3" onClick={() => ask(true)}>
          Ask somebody
        </Button>
      )}
      <p className="mt-8 text-xs text-ink2">
        Made {day(list.made_at)} from the board, the limits, the fields and the parts of the role.
      </p>
      <Button look="quiet" className="mt-1 px-0!" onClick={() => drop(true)}>
        Take the list away
      </Button>
      <Ask list={list} open={asking} onClose={() => ask(false)} />
      <Drop list={list} open={dropping} onClose={() => drop(false)} />
    </aside>
  );
}

type Props = { list: WalkList; open: boolean; onClose: () => void };

function Ask({ list, open, onClose }: Props) {
  const give = useGiveWalkList(list.id ?? "");
  const [account, setAccount] = useState("");
  const [word, setWord] = useState("");
  const problem = give.error instanceof ProblemError ? give.error : null;

  function send(event: FormEvent) {
    event.preventDefault();
    give.mutate(
      { account, word },
      {
        onSuccess: () => {
          setAccount("");
          setWord("");
          onClose();
        },
      },
    );
  }

  return (
    <Dialog open={open} onClose={onClose} title={`Ask somebody to try ${list.role.name}`}>
      <form onSubmit={send}>
        <p className="mb-3 text-ink2">
          They are told by mail, with a link to this list. Nothing is given to them by it, and nothing that
          they do there is kept but what it proves.
        </p>
        <Labelled label="Whom" error={problem?.at("/account")}>
          {(id, by) => <PersonPicker id={id} describedBy={by} value={account} onPick={setAccount} />}
        </Labelled>
        <Labelled label="A word to them" error={problem?.at("/word")}>
          {(id, by) => (
            <textarea
              id={id}
              aria-describedby={by}
              rows={3}
              maxLength={500}
              value={word}
              onChange={(event) => setWord(event.target.value)}
              className={INPUT}
            />
          )}
        </Labelled>
        {!problem?.at("/account") && !problem?.at("/word") && <ErrorNotice error={give.error} />}
        <DialogButtons>
          <Button onClick={onClose}>Not now</Button>
          <Button look="main" type="submit" disabled={!account || give.isPending}>
            Ask them
          </Button>
        </DialogButtons>
      </form>
    </Dialog>
  );
}

function Drop({ list, open, onClose }: Props) {
  const drop = useDropWalkList(list.id ?? "");
  const navigate = useNavigate();
  return (
    <Dialog open={open} onClose={onClose} title={`Take the walk list of ${list.role.name} away?`}>
      <p className="text-ink2">
        What was proved with it is forgotten, and whoever was asked to try it is asked no more. Another can be
        made from the board at any time.
      </p>
      <ErrorNotice error={drop.error} />
      <DialogButtons>
        <Button onClick={onClose}>Keep it</Button>
        <Button
          look="main"
          disabled={drop.isPending}
          onClick={() => drop.mutate(undefined, { onSuccess: () => navigate("/verify") })}
        >
          Take it away
        </Button>
      </DialogButtons>
    </Dialog>
  );
}
