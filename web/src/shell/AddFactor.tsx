// Setting up a second factor: an app for codes or a passkey; then codes to write down for when it is lost.

import { startRegistration } from "@simplewebauthn/browser";
import { useMutation } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { answer, api, ProblemError } from "../api/client";
import { Button, ErrorNotice, INPUT, Labelled } from "../shared/ui";

type AddProps = { passkeys: boolean; onDone: (codes: string[]) => void };

export function AddFactor({ passkeys, onDone }: AddProps) {
  const codes = useMutation({ mutationFn: () => answer(api.POST("/api/me/factors/begun")) });
  const passkey = useMutation({
    mutationFn: async () => {
      const { options } = await answer(api.PUT("/api/me/factors/begun"));
      const made = await startRegistration({ optionsJSON: options as never });
      const body = { name: deviceName(), passkey: made as unknown as Record<string, unknown> };
      return answer(api.POST("/api/me/factors", { body }));
    },
    onSuccess: (data) => onDone(data.codes),
  });
  if (codes.data) return <Codes begun={codes.data} onDone={onDone} />;
  const failed = passkey.error;
  return (
    <div>
      <div className="flex flex-wrap gap-2">
        <Button onClick={() => codes.mutate()} disabled={codes.isPending}>
          Codes from an app
        </Button>
        {passkeys && (
          <Button onClick={() => passkey.mutate()} disabled={passkey.isPending}>
            A passkey
          </Button>
        )}
      </div>
      <ErrorNotice error={codes.error ?? (failed instanceof ProblemError ? failed : null)} />
      {failed && !(failed instanceof ProblemError) && (
        <p role="alert" className="mt-2 text-sm text-bar">
          The browser made no passkey.
        </p>
      )}
    </div>
  );
}

type CodesProps = {
  begun: { secret: string; picture: string };
  onDone: (codes: string[]) => void;
};

function Codes({ begun, onDone }: CodesProps) {
  const [code, setCode] = useState("");
  const add = useMutation({
    mutationFn: () => answer(api.POST("/api/me/factors", { body: { name: "App for codes", code } })),
    onSuccess: (data) => onDone(data.codes),
  });
  const problem = add.error instanceof ProblemError ? add.error : null;

  function submit(event: FormEvent) {
    event.preventDefault();
    add.mutate();
  }

  return (
    <form onSubmit={submit} noValidate aria-label="Codes from an app">
      <div className="mb-3 flex items-start gap-4">
        <img
          src={begun.picture}
          alt="The secret as a square that apps for codes read"
          className="size-[132px]"
        />
        <div className="min-w-0 text-sm text-ink2">
          <p>Point your app for codes at the square, or type this into it:</p>
          <p className="mt-1 font-mono text-ink break-all">{begun.secret}</p>
        </div>
      </div>
      <Labelled label="Code the app shows now" error={problem?.at("/code") ?? problem?.problem.detail}>
        {(id, by) => (
          <input
            id={id}
            aria-describedby={by}
            inputMode="numeric"
            autoComplete="one-time-code"
            value={code}
            onChange={(event) => setCode(event.target.value)}
            className={INPUT}
          />
        )}
      </Labelled>
      <Button type="submit" look="main" disabled={add.isPending || code === ""}>
        That is it
      </Button>
    </form>
  );
}

/** Codes to write down, shown this once. */
export function RecoveryCodes({ codes, onDone }: { codes: string[]; onDone: () => void }) {
  return (
    <div role="status">
      <p className="text-sm">
        Write these down, or print them. Each signs you in once when your second factor is lost, and they are
        not shown again.
      </p>
      <ul className="my-3 grid grid-cols-2 gap-x-5 gap-y-1 font-mono text-sm">
        {codes.map((code) => (
          <li key={code}>{code}</li>
        ))}
      </ul>
      <Button look="main" onClick={onDone}>
        I have them
      </Button>
    </div>
  );
}

/** What a passkey made here is called. */
function deviceName(): string {
  return `Passkey of ${new Date().toLocaleDateString(undefined, { day: "numeric", month: "long", year: "numeric" })}`;
}
