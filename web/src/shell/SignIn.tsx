// Signing in with an e-mail address and a password.
import { useMutation } from "@tanstack/react-query";
import { type FormEvent, lazy, Suspense, useEffect, useRef, useState } from "react";
import { Navigate, useSearchParams } from "react-router";
import { answer, api, ProblemError } from "../api/client";
import { placeHere } from "../shared/placeHere";
import { firstPlace, useSession, useSignIn } from "../shared/session";
import { TextButton } from "../shared/TextLink";
import { Button, INPUT, Labelled } from "../shared/ui";
import { Door } from "./Door";

const Arriving = lazy(async () => ({ default: (await import("./Arriving")).Arriving }));
const SecondFactor = lazy(async () => ({ default: (await import("./SecondFactor")).SecondFactor }));

export function SignIn() {
  const session = useSession(); // brings the token that signing in needs, and tells how far one is
  const signIn = useSignIn();
  const [params] = useSearchParams();
  const [forgotten, forget] = useState(false);
  const password = useRef<HTMLInputElement>(null);
  const problem = signIn.error instanceof ProblemError ? signIn.error : null;

  function submit(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    signIn.mutate(
      { email: String(form.get("email")), password: String(form.get("password")) },
      { onError: () => password.current?.select() },
    );
  }

  if (session.data?.actor) return <Onward to={placeHere(params.get("to")) ?? firstPlace(session.data)} />;
  if (session.data?.arriving || session.data?.factors.length)
    return (
      <Suspense>
        {session.data.arriving ? (
          <Arriving arriving={session.data.arriving} />
        ) : (
          <SecondFactor kinds={session.data.factors} />
        )}
      </Suspense>
    );
  if (forgotten) return <Forgotten onBack={() => forget(false)} />;
  return (
    <Door title="Gonfalon" says="Say who may do what, and prove it.">
      <form onSubmit={submit} noValidate>
        <Labelled label="E-mail address" error={problem?.at("/email")}>
          {(id, by) => (
            <input
              id={id}
              aria-describedby={by}
              name="email"
              type="email"
              autoComplete="username"
              className={INPUT}
            />
          )}
        </Labelled>
        <Labelled label="Password" error={problem?.at("/password")}>
          {(id, by) => (
            <input
              id={id}
              ref={password}
              aria-describedby={by}
              name="password"
              type="password"
              autoComplete="current-password"
              className={INPUT}
            />
          )}
        </Labelled>
        {problem && !problem.problem.errors && (
          <p role="alert" className="mb-3 text-sm text-bar">
            {problem.problem.detail}
          </p>
        )}
        <Button type="submit" look="main" className="w-full" disabled={signIn.isPending}>
          Sign in
        </Button>
        <p className="mt-3 text-center text-sm">
          <TextButton onClick={() => forget(true)}>Forgotten the password?</TextButton>
        </p>
      </form>
    </Door>
  );
}

/** On to where one wanted to go: to a place here, or to a page of the public site, which is served apart. */
function Onward({ to }: { to: string }) {
  const served = to.startsWith("/site/");
  useEffect(() => {
    if (served) window.location.replace(to);
  }, [served, to]);
  return served ? null : <Navigate to={to} replace />;
}

/** Asking for a link to choose a new password by. */
function Forgotten({ onBack }: { onBack: () => void }) {
  const [email, setEmail] = useState("");
  const ask = useMutation({
    mutationFn: () => answer(api.POST("/api/session/forgotten", { body: { email } })),
  });
  const problem = ask.error instanceof ProblemError ? ask.error : null;
  if (ask.isSuccess)
    return (
      <Door
        title="Look at your mail"
        says={`If there is an account for ${email}, a link is on its way to it.`}
      >
        <Button look="main" className="w-full" onClick={onBack}>
          Back to signing in
        </Button>
      </Door>
    );
  return (
    <Door title="A new password" says="A link is sent to your address. It works once, for two hours.">
      <form
        noValidate
        onSubmit={(event) => {
          event.preventDefault();
          ask.mutate();
        }}
      >
        <Labelled
          label="E-mail address"
          error={problem ? (problem.at("/email") ?? problem.problem.detail) : undefined}
        >
          {(id, by) => (
            <input
              id={id}
              aria-describedby={by}
              type="email"
              value={email}
              onChange={(event) => setEmail(event.target.value)}
              autoComplete="username"
              className={INPUT}
            />
          )}
        </Labelled>
        <Button type="submit" look="main" className="w-full" disabled={ask.isPending}>
          Send the link
        </Button>
        <p className="mt-3 text-center text-sm">
          <TextButton onClick={onBack}>Back to signing in</TextButton>
        </p>
      </form>
    </Door>
  );
}
