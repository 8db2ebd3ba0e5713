// Who somebody is: name, address, language, and the fields of their profile that may be seen.
import { useMutation } from "@tanstack/react-query";
import { answer, api, type ProblemError, type Shapes } from "../api/client";
import { keys } from "./keys";
import { LANGUAGES } from "./languages";
import { Picker } from "./Picker";
import { PlainInput } from "./PlainInput";
import { queryClient } from "./query";
import { INPUT, Labelled } from "./ui";

export type Who = { name: string; email: string; language: string; profile: Record<string, unknown> };

/** What can be changed of somebody, to begin with. */
export function whoOf(who: Shapes["WhoShape"]): Who {
  const { name, email, language } = who;
  return { name, email, language, profile: profileOf(who.profile) };
}

export function profileOf(profile: Shapes["ProfileFieldShape"][]): Record<string, unknown> {
  const open = profile.filter(({ may_change }) => may_change);
  return Object.fromEntries(open.map(({ key, value }) => [key, value ?? ""]));
}

/** Change who one is oneself, on top of the version that was read. */
export function useChangeMe(tag: string) {
  return useMutation({
    mutationFn: (who: Partial<Who>) =>
      answer(
        api.PATCH("/api/me", {
          params: { header: { "If-Match": tag } },
          body: who as Shapes["PatchedAccountChangeInputRequest"],
        }),
      ),
    onSuccess: () =>
      Promise.all([
        queryClient.invalidateQueries({ queryKey: keys.me }),
        queryClient.invalidateQueries({ queryKey: keys.session }),
      ]),
  });
}

type FieldsProps = {
  who: Who;
  onChange: (who: Who) => void;
  profile: Shapes["ProfileFieldShape"][];
  problem: ProblemError | null;
  hint?: string;
};

export function WhoFields({ who, onChange, profile, problem, hint }: FieldsProps) {
  return (
    <>
      <Line
        label="Name"
        value={who.name}
        error={problem?.at("/name")}
        onChange={(name) => onChange({ ...who, name })}
      />
      <Line
        label="E-mail address"
        hint={hint ?? "A new address counts once you confirm it there."}
        value={who.email}
        error={problem?.at("/email")}
        onChange={(email) => onChange({ ...who, email })}
      />
      <LanguageField value={who.language} onChange={(language) => onChange({ ...who, language })} />
      <ProfileFields
        values={who.profile}
        onChange={(values) => onChange({ ...who, profile: values })}
        profile={profile}
        problem={problem}
      />
      {problem && !problem.problem.errors && (
        <p role="alert" className="mb-2 text-sm text-bar">
          {problem.problem.detail}
        </p>
      )}
    </>
  );
}

type ProfileProps = {
  values: Record<string, unknown>;
  onChange: (values: Record<string, unknown>) => void;
  profile: Shapes["ProfileFieldShape"][];
  problem: ProblemError | null;
};

/** The fields of a profile; those that are closed only to read. */
export function ProfileFields({ values, onChange, profile, problem }: ProfileProps) {
  return profile.map(({ key, name, kind, choices, value, may_change, asked }) => (
    <Labelled
      key={key}
      label={name}
      hint={may_change ? (asked ? "Everybody fills this in." : undefined) : "Closed to you."}
      error={problem?.at(`/profile/${key}`)}
    >
      {(id, by) => (
        <PlainInput
          id={id}
          describedBy={by}
          kind={kind}
          choices={choices}
          shut={!may_change}
          value={may_change ? values[key] : value}
          invalid={Boolean(problem?.at(`/profile/${key}`))}
          onChange={(said) => onChange({ ...values, [key]: said })}
        />
      )}
    </Labelled>
  ));
}

type LineProps = {
  label: string;
  value: string;
  onChange: (value: string) => void;
  hint?: string;
  error?: string;
};

function Line({ label, hint, error, value, onChange }: LineProps) {
  return (
    <Labelled label={label} hint={hint} error={error}>
      {(id, by) => (
        <input
          id={id}
          aria-describedby={by}
          value={value}
          onChange={(event) => onChange(event.target.value)}
          className={INPUT}
        />
      )}
    </Labelled>
  );
}

/** In which language somebody is written to, and days are written for them. */
export function LanguageField({ value, onChange }: { value: string; onChange: (language: string) => void }) {
  return (
    <Labelled label="Language">
      {(id) => (
        <Picker
          id={id}
          what="language"
          choices={LANGUAGES}
          value={value}
          onPick={(language) => onChange(language || "en")}
        />
      )}
    </Labelled>
  );
}
