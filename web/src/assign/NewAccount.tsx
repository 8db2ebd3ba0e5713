// Making an account: invited by mail, with a look at the letter, or with a password that is shown once.
import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { useNavigate } from "react-router";
import { answer, api, ProblemError } from "../api/client";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { LANGUAGES } from "../shared/languages";
import { Picker } from "../shared/Picker";
import { Button, INPUT, Labelled } from "../shared/ui";
import { useMakeAccount } from "../shared/useAccounts";
import { useSettled } from "../shared/useSettled";

export function NewAccount({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog open={open} onClose={onClose} title="New account" size="wide">
      <Form onClose={onClose} />
    </Dialog>
  );
}

function Form({ onClose }: { onClose: () => void }) {
  const [name, setName] = useState("");
  const [email, setEmail] = useState("");
  const [language, setLanguage] = useState("en");
  const [how, setHow] = useState<"invite" | "password">("invite");
  const [message, setMessage] = useState("");
  const make = useMakeAccount();
  const navigate = useNavigate();
  const problem = make.error instanceof ProblemError ? make.error : null;
  const address = useAddress(email);

  function submit(event: FormEvent) {
    event.preventDefault();
    make.mutate(
      { name, email, language: language as "en", how, message },
      {
        onSuccess: (made) => {
          if (made.password) return;
          onClose();
          navigate(`/assign/${made.id}`);
        },
      },
    );
  }

  if (make.data?.password)
    return <ShownOnce id={make.data.id} name={name} password={make.data.password} onClose={onClose} />;
  return (
    <form onSubmit={submit} noValidate>
      <div className="grid grid-cols-2 gap-x-6">
        <div>
          <Labelled label="Name" error={problem?.at("/name")}>
            {(id, by) => (
              <input
                id={id}
                aria-describedby={by}
                value={name}
                onChange={(event) => setName(event.target.value)}
                autoComplete="off"
                className={INPUT}
              />
            )}
          </Labelled>
          <Labelled
            label="E-mail address"
            error={
              problem?.at("/email") ?? (address?.taken ? "Another account has this address." : undefined)
            }
            hint={
              address?.shares
                ? "Another account’s mail arrives in the same mailbox. Both stay accounts of their own."
                : "It is what they sign in with."
            }
          >
            {(id, by) => (
              <input
                id={id}
                type="email"
                aria-describedby={by}
                value={email}
                onChange={(event) => setEmail(event.target.value)}
                autoComplete="off"
                className={INPUT}
              />
            )}
          </Labelled>
          <Labelled label="Language">
            {(id) => (
              <Picker
                id={id}
                what="language"
                choices={LANGUAGES}
                value={language}
                onPick={(key) => setLanguage(key || "en")}
              />
            )}
          </Labelled>
          <fieldset>
            <legend className="mb-1 text-sm font-semibold">They begin</legend>
            {(
              [
                ["invite", "With an invitation", "They choose a password by a link that works once."],
                ["password", "With a password", "It is made up, and shown to you once."],
              ] as const
            ).map(([key, title, says]) => (
              <label key={key} className="flex items-baseline gap-2 py-1 text-sm">
                <input type="radio" name="how" checked={how === key} onChange={() => setHow(key)} />
                <span>
                  {title}
                  <span className="block text-xs text-ink2">{says}</span>
                </span>
              </label>
            ))}
          </fieldset>
        </div>
        <div>
          {how === "invite" && (
            <>
              <Labelled label="A word of your own" error={problem?.at("/message")}>
                {(id, by) => (
                  <textarea
                    id={id}
                    aria-describedby={by}
                    value={message}
                    onChange={(event) => setMessage(event.target.value)}
                    rows={3}
                    className={INPUT}
                  />
                )}
              </Labelled>
              <Letter name={name} email={email} message={message} />
            </>
          )}
        </div>
      </div>
      {problem && !problem.problem.errors && (
        <p role="alert" className="text-sm text-bar">
          {problem.problem.detail}
        </p>
      )}
      <p className="mt-2 text-sm text-ink2">
        A new account holds what everybody has. Its roles and groups come next.
      </p>
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button type="submit" look="main" disabled={make.isPending}>
          {how === "invite" ? "Invite" : "Make account"}
        </Button>
      </DialogButtons>
    </form>
  );
}

function useAddress(email: string) {
  const settled = useSettled(email);
  const asked = useQuery({
    queryKey: ["address", settled],
    queryFn: () => answer(api.POST("/api/accounts/address", { body: { email: settled } })),
    enabled: /^\S+@\S+\.\S+$/.test(settled),
    retry: false,
  });
  return settled === email ? asked.data : undefined;
}

/** The invitation as it would be sent. */
function Letter({ name, email, message }: { name: string; email: string; message: string }) {
  const asked = { name: useSettled(name), email: useSettled(email), message: useSettled(message) };
  const letter = useQuery({
    queryKey: ["letter", asked],
    queryFn: () =>
      answer(api.POST("/api/accounts/letter", { body: { ...asked, language: "en", how: "invite" } })),
    enabled: asked.name.trim() !== "" && /^\S+@\S+\.\S+$/.test(asked.email),
    placeholderData: (before) => before,
    retry: false,
  });
  return (
    <div>
      <p className="mb-1 text-sm font-semibold">The letter</p>
      <div className="max-h-[230px] min-h-[120px] overflow-y-auto rounded border border-line bg-linen px-3 py-2 text-xs">
        {letter.data ? (
          <>
            <p className="mb-1 font-semibold">{letter.data.subject}</p>
            <p className="whitespace-pre-wrap">{letter.data.text}</p>
          </>
        ) : (
          <p className="text-ink2">It is shown here once there are a name and an address.</p>
        )}
      </div>
    </div>
  );
}

type OnceProps = { id: string; name: string; password: string; onClose: () => void };

function ShownOnce({ id, name, password, onClose }: OnceProps) {
  const navigate = useNavigate();
  return (
    <div>
      <p className="text-sm">
        {name} can sign in with this password. It is shown now, and never again; they can choose another one.
      </p>
      <p className="my-3 rounded border border-line bg-linen px-4 py-3 text-center font-mono text-lg select-all">
        {password}
      </p>
      <DialogButtons>
        <Button onClick={() => navigator.clipboard.writeText(password)}>Copy it</Button>
        <Button
          look="main"
          onClick={() => {
            onClose();
            navigate(`/assign/${id}`);
          }}
        >
          Go on to their roles
        </Button>
      </DialogButtons>
    </div>
  );
}
