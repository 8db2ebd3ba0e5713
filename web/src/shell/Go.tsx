// Taking one's own account away, as a registered visitor may.
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, ProblemError } from "../api/client";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { PasswordField } from "../shared/fields";
import { Button } from "../shared/ui";

export function Go() {
  const [open, show] = useState(false);
  const [current, setCurrent] = useState("");
  const go = useMutation({
    mutationFn: () => answer(api.POST("/api/me/gone", { body: { current } })),
    onSuccess: () => window.location.replace("/site/"),
  });
  const problem = go.error instanceof ProblemError ? go.error : null;
  return (
    <div className="mt-8">
      <h2 className="mb-1">Going</h2>
      <p className="mb-2 text-sm text-ink2">
        Your name and address are taken out of here; what you did stays as somebody’s.
      </p>
      <Button onClick={() => show(true)}>Take my account away</Button>
      <Dialog open={open} onClose={() => show(false)} title="Take your account away">
        <form
          onSubmit={(event) => {
            event.preventDefault();
            go.mutate();
          }}
        >
          <p className="mb-3 text-sm">
            Nobody signs in with it any more, and it cannot be brought back. Your name, your address, your
            profile and your portrait are gone; what you wrote stays, without your name.
          </p>
          <PasswordField
            label="Your password"
            error={problem ? (problem.at("/current") ?? problem.problem.detail) : undefined}
            value={current}
            onChange={setCurrent}
          />
          <DialogButtons>
            <Button onClick={() => show(false)}>Stay</Button>
            <Button type="submit" look="main" disabled={go.isPending || current === ""}>
              Take it away
            </Button>
          </DialogButtons>
        </form>
      </Dialog>
    </div>
  );
}
