// Before the riskiest acts whoever signed in long ago shows once more that it is them; then the act goes on.
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { answer, api, onProveAgain } from "../api/client";
import { Dialog } from "../shared/Dialog";
import { keys } from "../shared/keys";
import { Proof } from "../shared/Proof";

export function ProveAgain() {
  const [open, show] = useState(false);
  const answered = useRef<((proved: boolean) => void) | null>(null);
  const proofs = useQuery({
    queryKey: keys.proofs,
    queryFn: () => answer(api.GET("/api/session/proof")),
    enabled: open,
    staleTime: 0,
  });

  useEffect(() => {
    onProveAgain(
      () =>
        new Promise((resolve) => {
          answered.current?.(false);
          answered.current = resolve;
          show(true);
        }),
    );
    return () => onProveAgain(async () => false);
  }, []);

  function done(proved: boolean) {
    answered.current?.(proved);
    answered.current = null;
    show(false);
  }

  return (
    <Dialog open={open} onClose={() => done(false)} title="Is it still you?">
      <p className="mb-3 text-sm text-ink2">
        You signed in a while ago, and what you are about to do could let somebody else in.
      </p>
      {proofs.data && (
        <Proof
          kinds={proofs.data.kinds}
          button="Go on"
          challenge={() => answer(api.PUT("/api/session/proof"))}
          give={async (given) => {
            await answer(api.POST("/api/session/proof", { body: given }));
            done(true);
          }}
        />
      )}
    </Dialog>
  );
}
