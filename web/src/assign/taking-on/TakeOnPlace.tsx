// Taking people on in one step: who, in which groups and roles, where and until when, and a word to them.
import { useState } from "react";
import { FormProvider, useController, useForm, useFormContext, useWatch } from "react-hook-form";
import { LinesField, showRefused } from "../../shared/form";
import { useDuty } from "../../shared/session";
import { TextLink } from "../../shared/TextLink";
import { Button, ErrorNotice } from "../../shared/ui";
import { LanguageField } from "../../shared/who";
import { Groups, Roles } from "./Holding";
import { People } from "./People";
import { TakenOn } from "./TakenOn";
import { type Asked, type TakenOn as Done, NOBODY_YET, useLetter, useTakeOn } from "./useTakeOn";
import { WillBeAble } from "./WillBeAble";

export function TakeOnPlace() {
  const [done, setDone] = useState<Done | null>(null);
  return (
    <section
      aria-label="Take somebody on"
      className="min-w-0 flex-1 overflow-y-auto px-[18px] pt-[30px] pb-8"
    >
      <p className="text-sm">
        <TextLink to="/assign">Roster</TextLink>
      </p>
      <h1 className="mb-4">Take somebody on</h1>
      {done ? <TakenOn done={done} onAnother={() => setDone(null)} /> : <Form onDone={setDone} />}
    </section>
  );
}

function Form({ onDone }: { onDone: (done: Done) => void }) {
  const form = useForm<Asked>({ defaultValues: NOBODY_YET });
  const [how, people] = useWatch({ control: form.control, name: ["how", "people"] });
  const mayGive = useDuty("roles.assign");
  const take = useTakeOn();
  const submit = form.handleSubmit((asked) =>
    take.mutate(asked, { onSuccess: onDone, onError: (error) => showRefused(error, form.setError) }),
  );
  return (
    <FormProvider {...form}>
      <form
        onSubmit={submit}
        noValidate
        className="grid max-w-[1180px] grid-cols-[minmax(0,1.35fr)_minmax(0,1fr)] gap-10 max-[980px]:grid-cols-1"
      >
        <div>
          <People />
          {mayGive && (
            <>
              <Groups />
              <Roles />
            </>
          )}
        </div>
        <div>
          <WillBeAble />
          <Begin />
          {how === "invite" && <Letter />}
          <ErrorNotice error={take.error} />
          <Button type="submit" look="main" className="mt-2" disabled={take.isPending}>
            {how === "invite" ? "Invite" : "Make"} {people.length === 1 ? "them" : `all ${people.length}`}
          </Button>
        </div>
      </form>
    </FormProvider>
  );
}

const WAYS = [
  ["invite", "With an invitation", "They choose a password by a link that works once."],
  ["password", "With a password", "It is made up, and shown to you once."],
] as const;

/** How they begin, and in which language they are written to. */
function Begin() {
  const { register } = useFormContext<Asked>();
  const { field } = useController<Asked, "language">({ name: "language" });
  return (
    <div className="mt-5 mb-3 grid grid-cols-2 gap-5">
      <fieldset>
        <legend className="mb-1 text-sm font-semibold">They begin</legend>
        {WAYS.map(([key, title, says]) => (
          <label key={key} className="flex items-baseline gap-2 py-1 text-sm">
            <input type="radio" value={key} {...register("how")} />
            <span>
              {title}
              <span className="block text-xs text-ink2">{says}</span>
            </span>
          </label>
        ))}
      </fieldset>
      <LanguageField value={field.value} onChange={field.onChange} />
    </div>
  );
}

/** A word of one's own, and the invitation as it would be sent. */
function Letter() {
  const { register, formState } = useFormContext<Asked>();
  const [people, message] = useWatch<Asked, ["people", "message"]>({ name: ["people", "message"] });
  const letter = useLetter(people[0]?.name ?? "", message);
  return (
    <>
      <LinesField
        label="A word of your own"
        field={register("message")}
        error={formState.errors.message?.message}
        rows={2}
      />
      <details className="mb-3 rounded border border-line bg-linen px-3 py-2 text-xs">
        <summary className="cursor-pointer font-semibold">The letter as it will be sent</summary>
        {letter.data ? (
          <>
            <p className="mt-2 mb-1 font-semibold">{letter.data.subject}</p>
            <p className="whitespace-pre-wrap">{letter.data.text}</p>
          </>
        ) : (
          <p className="mt-2 text-ink2">It is shown here once there is a name.</p>
        )}
      </details>
    </>
  );
}
