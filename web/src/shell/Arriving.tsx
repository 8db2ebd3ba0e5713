// Before anything is open: what whoever signed in must have first.
import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { answer, answerWithTag, api, ProblemError, type Shapes } from "../api/client";
import { keys } from "../shared/keys";
import { cameIn, useSignOut } from "../shared/session";
import { TextButton } from "../shared/TextLink";
import { Button, ErrorNotice } from "../shared/ui";
import { ProfileFields, profileOf, useChangeMe } from "../shared/who";
import { AddFactor, RecoveryCodes } from "./AddFactor";
import { ChangePassword } from "./ChangePassword";
import { Door } from "./Door";

export function Arriving({ arriving }: { arriving: Shapes["ArrivingShape"] }) {
  const signOut = useSignOut();
  const again = async () => cameIn(await answer(api.GET("/api/session")));
  return (
    <Door title={`Before you go on, ${arriving.name.split(" ")[0]}`} says={says(arriving)}>
      {arriving.password ? (
        <ChangePassword now="Password you were given" button="Choose it and go on" wide onDone={again} />
      ) : arriving.factor ? (
        <Factor onDone={again} />
      ) : (
        <Missing keys={arriving.fields_missing} onDone={again} />
      )}
      <p className="mt-4 text-center text-sm">
        <TextButton onClick={() => signOut.mutate()}>Sign out</TextButton>
      </p>
    </Door>
  );
}

function says({ password, factor }: Shapes["ArrivingShape"]) {
  if (password) return "Somebody else made your password. Choose one that only you know.";
  if (factor) return "What you may do here asks for a second factor besides the password.";
  return "Everybody here fills in some of their profile.";
}

function Factor({ onDone }: { onDone: () => Promise<void> }) {
  const own = useQuery({ queryKey: keys.ownFactors, queryFn: () => answer(api.GET("/api/me/factors")) });
  const [codes, tell] = useState<string[]>([]);
  if (codes.length > 0) return <RecoveryCodes codes={codes} onDone={onDone} />;
  if (!own.data) return <ErrorNotice error={own.error} again={own.refetch} />;
  return <AddFactor passkeys={own.data.passkeys} onDone={tell} />;
}

function Missing({ keys: missing, onDone }: { keys: string[]; onDone: () => Promise<void> }) {
  const me = useQuery({ queryKey: keys.me, queryFn: () => answerWithTag(api.GET("/api/me")) });
  if (!me.data) return <ErrorNotice error={me.error} again={me.refetch} />;
  return <Form me={me.data.data} tag={me.data.tag} missing={missing} onDone={onDone} />;
}

type FormProps = { me: Shapes["MeShape"]; tag: string; missing: string[]; onDone: () => Promise<void> };

function Form({ me, tag, missing, onDone }: FormProps) {
  const asked = me.profile.filter(({ key }) => missing.includes(key));
  const [values, setValues] = useState(profileOf(asked));
  const change = useChangeMe(tag);
  const problem = change.error instanceof ProblemError ? change.error : null;

  function submit(event: FormEvent) {
    event.preventDefault();
    change.mutate({ profile: values }, { onSuccess: onDone });
  }

  return (
    <form onSubmit={submit} noValidate>
      <ProfileFields values={values} onChange={setValues} profile={asked} problem={problem} />
      {problem && !problem.problem.errors && (
        <p role="alert" className="mb-2 text-sm text-bar">
          {problem.problem.detail}
        </p>
      )}
      <Button type="submit" look="main" className="w-full" disabled={change.isPending}>
        Save and go on
      </Button>
    </form>
  );
}
