// Showing that one is oneself: by a code, a passkey, a code for when those are lost, or the password.

import { startAuthentication } from "@simplewebauthn/browser";
import { useMutation } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { ProblemError, type Shapes } from "../api/client";
import { TextButton } from "./TextLink";
import { Button, INPUT, Labelled } from "./ui";

export type Kind = Shapes["ProofsShape"]["kinds"][number];
export type Given = {
  code?: string;
  recovery?: string;
  password?: string;
  passkey?: Record<string, unknown>;
};
type Options = Shapes["ChallengeShape"];

const WORDS = {
  code: {
    label: "Code",
    hint: "Six digits, from your app for codes",
    other: "Take a code from the app",
    auto: "one-time-code",
  },
  recovery: {
    label: "Recovery code",
    hint: "One of those you wrote down",
    other: "Lost it? Take a recovery code",
    auto: "off",
  },
  password: { label: "Password", hint: undefined, other: "Take the password", auto: "current-password" },
  passkey: { label: "", hint: undefined, other: "Take a passkey", auto: "off" },
};

type ProofProps = {
  kinds: Kind[];
  challenge: () => Promise<Options>;
  give: (given: Given) => Promise<unknown>;
  button: string;
};

export function Proof({ kinds, challenge, give, button }: ProofProps) {
  const [chosen, choose] = useState<Kind>(kinds[0] ?? "password");
  const [text, setText] = useState("");
  const prove = useMutation({
    mutationFn: async () => {
      if (chosen !== "passkey") return give({ [chosen]: text });
      const { options } = await challenge();
      const passkey = await startAuthentication({ optionsJSON: options as never });
      return give({ passkey: passkey as unknown as Record<string, unknown> });
    },
  });
  const problem = prove.error instanceof ProblemError ? prove.error : null;
  const said = problem?.problem.detail ?? (prove.error && "The browser had no passkey to show.");
  const { label, hint, auto } = WORDS[chosen];

  function submit(event: FormEvent) {
    event.preventDefault();
    prove.mutate();
  }

  return (
    <form onSubmit={submit} noValidate>
      {chosen === "passkey" ? (
        <p className="mb-3 text-sm text-ink2">The browser asks for your passkey.</p>
      ) : (
        <Labelled key={chosen} label={label} hint={hint} error={problem?.at(`/${chosen}`)}>
          {(id, by) => (
            <input
              id={id}
              aria-describedby={by}
              // biome-ignore lint/a11y/noAutofocus: it is all there is to fill in here
              autoFocus
              type={chosen === "password" ? "password" : "text"}
              inputMode={chosen === "code" ? "numeric" : undefined}
              autoComplete={auto}
              value={text}
              onChange={(event) => setText(event.target.value)}
              className={INPUT}
            />
          )}
        </Labelled>
      )}
      {said && !problem?.at(`/${chosen}`) && (
        <p role="alert" className="mb-3 text-sm text-bar">
          {said}
        </p>
      )}
      <Button type="submit" look="main" className="w-full" disabled={prove.isPending}>
        {chosen === "passkey" ? "Show the passkey" : button}
      </Button>
      {kinds
        .filter((kind) => kind !== chosen)
        .map((kind) => (
          <p key={kind} className="mt-3 text-center text-sm">
            <TextButton
              onClick={() => {
                choose(kind);
                setText("");
                prove.reset();
              }}
            >
              {WORDS[kind].other}
            </TextButton>
          </p>
        ))}
    </form>
  );
}
