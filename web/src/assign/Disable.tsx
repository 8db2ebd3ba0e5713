// Disabling an account: what it leaves behind, and to whom that is handed on, in one step.
import { useState } from "react";
import { answer, api } from "../api/client";
import { Foreseen } from "../shared/changes/Foreseen";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { PersonPicker } from "../shared/pickers";
import { useDuty } from "../shared/session";
import { count } from "../shared/time";
import { Button, ErrorNotice, Labelled, Loading } from "../shared/ui";
import { useDisable, useEnable, useLeaving } from "../shared/useAccounts";

type DisableProps = { open: boolean; onClose: () => void; account: string; name: string };

export function Disable({ open, onClose, account, name }: DisableProps) {
  return (
    <Dialog open={open} onClose={onClose} title={`Disable ${name}`} size="wide">
      {open && <Form onClose={onClose} account={account} name={name} />}
    </Dialog>
  );
}

function Form({ onClose, account, name }: Omit<DisableProps, "open">) {
  const leaving = useLeaving(account, true);
  const disable = useDisable(account);
  const mayHand = useDuty("roles.assign");
  const [pagesTo, setPagesTo] = useState("");
  const [rolesTo, setRolesTo] = useState("");
  const [reviewsTo, setReviewsTo] = useState("");
  if (leaving.error) return <ErrorNotice error={leaving.error} again={leaving.refetch} />;
  if (!leaving.data) return <Loading what="what stays behind" />;
  const { wrote, named, alone, duties, roles, hands_out, reviews, requests, sessions } = leaving.data;
  return (
    <div>
      <p className="text-sm">
        {name} is signed out at once{sessions > 0 ? `, from ${count(sessions, "place")}` : ""}, and cannot
        sign in any more. Nothing is deleted: the ledger and what they wrote stay.
      </p>
      <div className="mt-4 grid grid-cols-2 gap-6">
        <div>
          <h3 className="mb-1 text-base font-bold">What they wrote</h3>
          <p className="mb-2 text-sm">
            {wrote === 0
              ? "Nothing that you may see."
              : `${wrote === 1 ? "1 page or picture" : `${wrote} pages and pictures`}: ${named.join("; ")}${wrote > named.length ? "…" : ""}`}
          </p>
          {alone.length > 0 && (
            <p className="mb-2 text-sm">
              Nobody else but keyholders may edit <strong>{alone.join("; ")}</strong>.
            </p>
          )}
          {wrote > 0 && mayHand && (
            <Labelled
              label="Whose it is from now on"
              hint="They may do what their roles say of what is their own."
            >
              {(id, by) => (
                <PersonPicker
                  id={id}
                  describedBy={by}
                  value={pagesTo}
                  but={account}
                  none="It stays theirs"
                  onPick={setPagesTo}
                />
              )}
            </Labelled>
          )}
        </div>
        <div>
          <h3 className="mb-1 text-base font-bold">What they hold</h3>
          <p className="mb-2 text-sm">
            {roles === 0 ? "No role directly." : `${count(roles, "role")} directly.`}{" "}
            {hands_out > 0 && `They hand out roles to others. `}
            {duties.length > 0
              ? `Nobody else but keyholders may do this: ${duties.join("; ").toLowerCase()}.`
              : "No duty that nobody else has."}
          </p>
          {roles + hands_out > 0 && mayHand && (
            <Labelled label="Who is given the same" hint="The same roles, in the same places, for as long.">
              {(id, by) => (
                <PersonPicker
                  id={id}
                  describedBy={by}
                  value={rolesTo}
                  but={account}
                  none="Nobody"
                  onPick={setRolesTo}
                />
              )}
            </Labelled>
          )}
        </div>
        {(reviews.length > 0 || requests > 0) && (
          <div>
            <h3 className="mb-1 text-base font-bold">What waits</h3>
            {requests > 0 && (
              <p className="mb-2 text-sm">
                {count(requests, "request")} of theirs that nobody decided: closed with the account.
              </p>
            )}
            {reviews.length > 0 && (
              <p className="mb-2 text-sm">
                They are to decide in <strong>{reviews.join("; ")}</strong>.
              </p>
            )}
            {reviews.length > 0 && mayHand && (
              <Labelled
                label="Who reviews in their place"
                hint="Nobody: the other reviewers, where there are any."
              >
                {(id, by) => (
                  <PersonPicker
                    id={id}
                    describedBy={by}
                    value={reviewsTo}
                    but={account}
                    none="Nobody"
                    onPick={setReviewsTo}
                  />
                )}
              </Labelled>
            )}
          </div>
        )}
      </div>
      <Foreseen
        of={["disable", account, pagesTo, rolesTo]}
        ask={() =>
          answer(
            api.POST("/api/accounts/{account}/disable/foreseen", {
              params: { path: { account } },
              body: { pages_to: pagesTo || null, roles_to: rolesTo || null },
            }),
          )
        }
      />
      <ErrorNotice error={disable.error} />
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button
          look="main"
          disabled={disable.isPending}
          onClick={() =>
            disable.mutate(
              { pages_to: pagesTo || null, roles_to: rolesTo || null, reviews_to: reviewsTo || null },
              { onSuccess: onClose },
            )
          }
        >
          Disable now
        </Button>
      </DialogButtons>
    </div>
  );
}

export function EnableButton({ account }: { account: string }) {
  const enable = useEnable(account);
  return (
    <>
      <Button onClick={() => enable.mutate()} disabled={enable.isPending}>
        Enable
      </Button>
      <ErrorNotice error={enable.error} />
    </>
  );
}
