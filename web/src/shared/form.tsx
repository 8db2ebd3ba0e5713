// Fields of a form kept by react-hook-form, and what the server found wrong with them, each at its field.
import {
  type Control,
  type FieldValues,
  type Path,
  type UseFormRegisterReturn,
  type UseFormSetError,
  useController,
} from "react-hook-form";
import { ProblemError } from "../api/client";
import { DateInput } from "./dates/DateInput";
import { INPUT, Labelled } from "./ui";

type FieldProps = {
  label: string;
  /** What `register` gives for it. */
  field: UseFormRegisterReturn;
  error?: string;
  hint?: string;
};

export function LineField({ label, field, error, hint, type }: FieldProps & { type?: "email" }) {
  return (
    <Labelled label={label} error={error} hint={hint}>
      {(id, by) => (
        <input
          id={id}
          type={type}
          aria-describedby={by}
          aria-invalid={Boolean(error)}
          autoComplete="off"
          className={INPUT}
          {...field}
        />
      )}
    </Labelled>
  );
}

export function LinesField({ label, field, error, hint, rows }: FieldProps & { rows: number }) {
  return (
    <Labelled label={label} error={error} hint={hint}>
      {(id, by) => (
        <textarea
          id={id}
          aria-describedby={by}
          aria-invalid={Boolean(error)}
          rows={rows}
          className={INPUT}
          {...field}
        />
      )}
    </Labelled>
  );
}

type DayProps<T extends FieldValues> = {
  label: string;
  control: Control<T>;
  name: Path<T>;
  error?: string;
  hint?: string;
};

export function DayField<T extends FieldValues>({ label, control, name, error, hint }: DayProps<T>) {
  const { field } = useController({ control, name });
  return (
    <Labelled label={label} error={error} hint={hint}>
      {(id, by) => (
        <DateInput
          id={id}
          describedBy={by}
          invalid={Boolean(error)}
          value={field.value}
          onChange={field.onChange}
        />
      )}
    </Labelled>
  );
}

/** Puts what the server refused at its fields, the rest at `root`; the first of them takes the focus. */
export function showRefused<T extends FieldValues>(error: Error, setError: UseFormSetError<T>) {
  const errors = error instanceof ProblemError ? (error.problem.errors ?? []) : [];
  errors.forEach(({ pointer, message }, place) => {
    const path = (pointer.slice(1).replaceAll("/", ".") || "root") as Path<T>;
    setError(path, { type: "server", message }, { shouldFocus: place === 0 });
  });
}
