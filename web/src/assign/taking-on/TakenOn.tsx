// Who was taken on, what comes next, and the way back.
import { Link } from "react-router";
import { Button, ErrorNotice } from "../../shared/ui";
import { type TakenOn as Done, useTakeBack } from "./useTakeOn";

export function TakenOn({ done, onAnother }: { done: Done; onAnother: () => void }) {
  const back = useTakeBack(done.change_set);
  const [first] = done.people;
  const invited = first?.password === null;
  if (back.isSuccess)
    return (
      <div>
        <p role="status" className="text-lead">
          Taken back: what they were given is gone, and their accounts are disabled.
          {invited ? " The links they were sent are worth nothing any more." : ""}
        </p>
        <Button look="main" className="mt-4" onClick={onAnother}>
          Take somebody else on
        </Button>
      </div>
    );
  return (
    <div className="max-w-[640px]">
      <p role="status" className="text-lead">
        {invited
          ? `Invited: a letter is on its way${done.people.length === 1 ? "" : " to each of them"}.`
          : "They can sign in with these passwords. They are shown now, and never again."}
      </p>
      <ul className="my-3">
        {done.people.map(({ id, name, password }) => (
          <li key={id} className="flex min-h-[38px] items-center gap-3 border-b border-line">
            <Link to={`/assign/${id}`} className="flex-1 truncate font-semibold">
              {name}
            </Link>
            {password && (
              <>
                <code className="rounded border border-line bg-linen px-2 py-0.5 select-all">{password}</code>
                <Button
                  aria-label={`Copy the password of ${name}`}
                  onClick={() => navigator.clipboard.writeText(password)}
                >
                  Copy it
                </Button>
              </>
            )}
          </li>
        ))}
      </ul>
      <ErrorNotice error={back.error} />
      <div className="flex gap-2">
        <Button onClick={() => back.mutate()} disabled={back.isPending}>
          Take it back
        </Button>
        <Button look="main" onClick={onAnother}>
          Take somebody else on
        </Button>
      </div>
      <p className="mt-2 text-xs text-ink2">It can be taken back for as long as nobody has come.</p>
    </div>
  );
}
