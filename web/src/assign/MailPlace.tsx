// The outbox: what was sent to whom, what waits and why.
import { useMutation, useQuery } from "@tanstack/react-query";
import { answer, api, everyPage, type Shapes } from "../api/client";
import { keys } from "../shared/keys";
import { queryClient } from "../shared/query";
import { useDuty } from "../shared/session";
import { clock, count, day } from "../shared/time";
import { Button, Empty, ErrorNotice, Loading } from "../shared/ui";
import { RosterHead } from "./RosterHead";

type Letter = Shapes["LetterRowShape"];

export function MailPlace() {
  const letters = useQuery({
    queryKey: keys.letters,
    queryFn: () => everyPage((offset) => api.GET("/api/letters", { params: { query: { offset } } })),
    refetchInterval: 10_000,
  });
  const again = useMutation({
    mutationFn: (letter: string) =>
      answer(api.POST("/api/letters/{letter}/again", { params: { path: { letter } } })),
    onSettled: () => queryClient.invalidateQueries({ queryKey: keys.letters }),
  });
  const mayTry = useDuty("accounts.invite");
  return (
    <section aria-label="Mail" className="min-w-0 flex-1 overflow-y-auto px-[18px] pt-[30px] pb-8">
      <RosterHead />
      <p className="mt-2 max-w-[760px] text-sm text-ink2">
        Letters to people about their accounts. What one says is kept only until it is sent.
      </p>
      {letters.error && <ErrorNotice error={letters.error} again={letters.refetch} />}
      <ErrorNotice error={again.error} />
      {letters.isPending && <Loading what="the letters" />}
      {letters.data?.length === 0 && (
        <Empty title="Nothing was sent yet">Invitations and links for new passwords show here.</Empty>
      )}
      <ul className="mt-3 max-w-[1100px]">
        {letters.data?.map((letter) => (
          <Line key={letter.id} letter={letter} onAgain={mayTry ? () => again.mutate(letter.id) : null} />
        ))}
      </ul>
    </section>
  );
}

function Line({ letter, onAgain }: { letter: Letter; onAgain: (() => void) | null }) {
  const open = letter.state === "waiting" || letter.state === "failed";
  return (
    <li className="grid min-h-[38px] grid-cols-[minmax(140px,1fr)_minmax(140px,1fr)_minmax(0,1.4fr)_110px] items-center gap-3 border-b border-line py-1 text-read">
      <span className="truncate font-semibold">{letter.to}</span>
      <span className="truncate">{letter.subject}</span>
      <span className={`text-xs ${letter.state === "failed" ? "text-bar" : "text-ink2"}`}>
        {stateWords(letter)}
      </span>
      {open && onAgain ? (
        <Button look="quiet" aria-label={`Try the letter to ${letter.to} again`} onClick={onAgain}>
          Try now
        </Button>
      ) : (
        <span />
      )}
    </li>
  );
}

/** "sent on 3 Nov at 09:12", or why not yet. */
export function stateWords({ state, tries, trouble, next_at, sent_at, written_at }: Letter): string {
  const at = (time: string) => `${day(time)} at ${clock(time)}`;
  if (state === "sent") return `sent on ${at(sent_at ?? written_at)}`;
  if (state === "sending") return `with the mail server since ${at(written_at)}`;
  if (state === "failed") return `given up after ${count(tries, "try", "tries")}: ${trouble}`;
  return trouble ? `${trouble}; tried next on ${at(next_at)}` : `written on ${at(written_at)}, on its way`;
}
