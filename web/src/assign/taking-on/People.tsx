// Who is taken on: a name and an address each.
import { useFieldArray, useFormContext, useWatch } from "react-hook-form";
import { LineField } from "../../shared/form";
import { TextButton } from "../../shared/TextLink";
import { type Asked, useAddress } from "./useTakeOn";

const MOST = 30;

export function People() {
  const { control } = useFormContext<Asked>();
  const { fields, append, remove } = useFieldArray({ control, name: "people" });
  return (
    <fieldset>
      <legend className="sr-only">Who</legend>
      {fields.map(({ id }, place) => (
        <div key={id} role="group" aria-label={`Person ${place + 1}`} className="flex items-start gap-2.5">
          <Person place={place} />
          {fields.length > 1 && (
            <button
              type="button"
              aria-label={`Leave person ${place + 1} out`}
              onClick={() => remove(place)}
              className="mt-6 size-7 shrink-0 rounded text-ink2 hover:bg-linen2"
            >
              ×
            </button>
          )}
        </div>
      ))}
      {fields.length < MOST && (
        <TextButton onClick={() => append({ name: "", email: "" })}>One more person</TextButton>
      )}
    </fieldset>
  );
}

function Person({ place }: { place: number }) {
  const { control, register, formState } = useFormContext<Asked>();
  const email = useWatch({ control, name: `people.${place}.email` });
  const errors = formState.errors.people?.[place];
  const address = useAddress(email);
  return (
    <div className="grid min-w-0 flex-1 grid-cols-2 gap-x-2.5">
      <LineField label="Name" field={register(`people.${place}.name`)} error={errors?.name?.message} />
      <LineField
        label="E-mail address"
        type="email"
        field={register(`people.${place}.email`)}
        error={errors?.email?.message ?? (address?.taken ? "Another account has this address." : undefined)}
        hint={
          address?.shares
            ? "Another account’s mail arrives in the same mailbox. Both stay accounts of their own."
            : undefined
        }
      />
    </div>
  );
}
