// One's own second factors: what there is, adding and taking away, and codes for when all is lost.
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../api/client";
import { keys } from "../shared/keys";
import { queryClient } from "../shared/query";
import { day } from "../shared/time";
import { Button, ErrorNotice } from "../shared/ui";
import { AddFactor, RecoveryCodes } from "./AddFactor";

export function Factors() {
  const own = useQuery({ queryKey: keys.ownFactors, queryFn: () => answer(api.GET("/api/me/factors")) });
  const [adding, add] = useState(false);
  const [codes, tell] = useState<string[]>([]);
  const changed = () => queryClient.invalidateQueries({ queryKey: keys.ownFactors });
  const remove = useMutation({
    mutationFn: (factor: string) =>
      answer(api.DELETE("/api/me/factors/{factor}", { params: { path: { factor } } })),
    onSettled: changed,
  });
  const anew = useMutation({
    mutationFn: () => answer(api.POST("/api/me/factors/codes")),
    onSuccess: (made) => {
      tell(made.codes);
      return changed();
    },
  });
  if (!own.data) return null;
  const { factors, recovery_codes, passkeys } = own.data;
  return (
    <section aria-label="Second factor" className="mt-8">
      <h2 className="mb-1">Second factor</h2>
      {codes.length > 0 ? (
        <RecoveryCodes codes={codes} onDone={() => tell([])} />
      ) : (
        <>
          {factors.length === 0 && (
            <p className="mb-2 text-sm text-ink2">
              With one, whoever learns your password still cannot sign in as you.
            </p>
          )}
          <ul>
            {factors.map(({ id, name, used_at }) => (
              <li key={id} className="flex min-h-[38px] items-center gap-3 border-b border-line text-read">
                <span className="font-semibold">{name}</span>
                <span className="flex-1 text-xs text-ink2">
                  {used_at ? `last used ${day(used_at)}` : "not used yet"}
                </span>
                <Button look="quiet" aria-label={`Take ${name} away`} onClick={() => remove.mutate(id)}>
                  Take away
                </Button>
              </li>
            ))}
          </ul>
          {factors.length > 0 && (
            <p className="my-2 flex items-center gap-3 text-sm text-ink2">
              <span className="flex-1">{recovery_codes} recovery codes are left.</span>
              <Button look="quiet" onClick={() => anew.mutate()} disabled={anew.isPending}>
                Make new ones
              </Button>
            </p>
          )}
          <ErrorNotice error={remove.error ?? anew.error} />
          {adding ? (
            <AddFactor
              passkeys={passkeys}
              onDone={(made) => {
                add(false);
                tell(made);
                return changed();
              }}
            />
          ) : (
            <Button onClick={() => add(true)}>{factors.length > 0 ? "Add another" : "Add one"}</Button>
          )}
        </>
      )}
    </section>
  );
}
