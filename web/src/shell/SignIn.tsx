// Signing in with an e-mail address and a password.
import { type FormEvent, useRef } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { ProblemError } from "../api/client";
import { firstPlace, useSession, useSignIn } from "../shared/session";
import { Button, INPUT, Labelled } from "../shared/ui";

export function SignIn() {
  useSession(); // brings the token that signing in needs
  const signIn = useSignIn();
  const navigate = useNavigate();
  const [params] = useSearchParams();
  const password = useRef<HTMLInputElement>(null);
  const problem = signIn.error instanceof ProblemError ? signIn.error : null;

  function submit(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    signIn.mutate(
      { email: String(form.get("email")), password: String(form.get("password")) },
      {
        onSuccess: (session) => navigate(wanted(params.get("to")) ?? firstPlace(session), { replace: true }),
        onError: () => password.current?.select(),
      },
    );
  }

  return (
    <div className="flex h-full flex-col items-center bg-linen">
      <div className="h-[47px] w-full border-b-[3px] border-brass bg-rod" />
      <main className="w-[360px] max-w-[92vw] bg-paper px-7 pt-8 pb-12 shadow-sm [clip-path:polygon(0_0,100%_0,100%_100%,50%_calc(100%-26px),0_100%)]">
        <h1 className="text-title">Gonfalon</h1>
        <p className="mt-1 mb-5 text-sm text-ink2">Say who may do what, and prove it.</p>
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
        </form>
      </main>
    </div>
  );
}

/** Where one wanted to go, if it is a place of this application. */
function wanted(to: string | null): string | null {
  return to?.startsWith("/") && !to.startsWith("//") ? to : null;
}
