// Another password in place of the one that somebody has.
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, ProblemError } from "../api/client";
import { PasswordField } from "../shared/fields";
import { NewPassword } from "../shared/NewPassword";
import { Button } from "../shared/ui";

type ChangePasswordProps = {
  /** What the password is called that one has. */
  now: string;
  button: string;
  wide?: boolean;
  done?: string;
  onDone: () => unknown;
};

export function ChangePassword({ now, button, wide = false, done = "", onDone }: ChangePasswordProps) {
  const [current, setCurrent] = useState("");
  const [password, setPassword] = useState("");
  const change = useMutation({
    mutationFn: () => answer(api.POST("/api/me/password", { body: { current, password } })),
    onSuccess: () => {
      setCurrent("");
      setPassword("");
      return onDone();
    },
  });
  const problem = change.error instanceof ProblemError ? change.error : null;
  return (
    <form
      aria-label="Your password"
      onSubmit={(event) => {
        event.preventDefault();
        change.mutate();
      }}
    >
      <PasswordField label={now} error={problem?.at("/current")} value={current} onChange={setCurrent} />
      <NewPassword value={password} onChange={setPassword} error={problem?.at("/password")} />
      {problem && !problem.at("/current") && (
        <p role="alert" className="mb-2 text-sm text-bar">
          {problem.at("/password") ?? problem.problem.detail}
        </p>
      )}
      <Button
        type="submit"
        look={wide ? "main" : undefined}
        className={wide ? "w-full" : undefined}
        disabled={change.isPending || current === "" || password === ""}
      >
        {button}
      </Button>
      {done && (
        <span role="status" className="ml-3 text-sm text-ink2">
          {change.isSuccess ? done : ""}
        </span>
      )}
    </form>
  );
}
