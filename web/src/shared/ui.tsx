// Small parts that every place uses: buttons, chips, notes, loading and empty states.
import { type ButtonHTMLAttributes, type ReactNode, useEffect, useId, useState } from "react";
import { ProblemError } from "../api/client";

type ButtonProps = ButtonHTMLAttributes<HTMLButtonElement> & {
  look?: "plain" | "main" | "brass" | "dark" | "quiet";
};

const LOOKS = {
  plain: "border-line2 bg-paper text-ink hover:bg-white",
  main: "border-rod bg-rod text-white hover:bg-rod2",
  brass: "border-brass bg-brass text-rod hover:brightness-105 font-semibold",
  dark: "border-[#65577a] bg-transparent text-[#efe9f6] hover:bg-rod2",
  quiet: "border-transparent bg-transparent text-ink2 hover:bg-linen2",
};

export function Button({ look = "plain", className = "", type = "button", ...rest }: ButtonProps) {
  return (
    <button
      type={type}
      className={`rounded-[5px] border px-[11px] py-[5px] text-sm font-medium whitespace-nowrap disabled:opacity-55 ${LOOKS[look]} ${className}`}
      {...rest}
    />
  );
}

export function Chip({
  on,
  className = "",
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { on?: boolean }) {
  return (
    <button
      type="button"
      aria-pressed={on}
      className={`inline-flex items-center gap-1.5 rounded-full border px-2.5 py-[2px] text-note whitespace-nowrap ${
        on
          ? "border-rod bg-chosen font-semibold text-ink"
          : "border-line bg-paper text-ink2 hover:border-line2"
      } ${className}`}
      {...rest}
    />
  );
}

export function Tag({ children }: { children: ReactNode }) {
  return (
    <span className="inline-flex items-center rounded-full border border-line bg-paper px-2.5 py-[2px] text-note whitespace-nowrap text-ink2">
      {children}
    </span>
  );
}

/** Says that something runs, once it has run for a third of a second. */
export function Loading({ what }: { what: string }) {
  const [shown, show] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => show(true), 300);
    return () => clearTimeout(timer);
  }, []);
  return (
    <p role="status" className="p-5 text-sm text-ink2">
      {shown ? `Fetching ${what}…` : ""}
    </p>
  );
}

/** What belongs in an empty place. With `heading` it is the page's own. */
export function Empty({
  title,
  heading,
  children,
}: {
  title: string;
  heading?: boolean;
  children?: ReactNode;
}) {
  const Title = heading ? "h1" : "p";
  return (
    <div className="p-6 text-sm text-ink2">
      <Title className="text-sm! font-semibold text-ink">{title}</Title>
      {children && <div className="mt-1">{children}</div>}
    </div>
  );
}

/** A refusal or error, in words, where it happened. */
export function ErrorNotice({ error, again }: { error: unknown; again?: () => void }) {
  if (!error) return null;
  const problem = error instanceof ProblemError ? error.problem : null;
  return (
    <div role="alert" className="my-2 rounded border border-[#dcb9b4] bg-rose px-3 py-2 text-sm text-bar">
      <p className="font-semibold">{problem?.title ?? "Something went wrong"}</p>
      <p>{problem?.detail ?? String(error)}</p>
      {again && (
        <Button className="mt-1" onClick={again}>
          Try again
        </Button>
      )}
    </div>
  );
}

type FieldProps = {
  label: string;
  error?: string;
  hint?: string;
  children: (id: string, describedBy?: string) => ReactNode;
};

/** A labelled input with its error beneath. */
export function Labelled({ label, error, hint, children }: FieldProps) {
  const id = useId();
  const note = error ? `${id}-error` : hint ? `${id}-hint` : undefined;
  return (
    <div className="mb-3">
      <label id={`${id}-label`} htmlFor={id} className="mb-1 block text-sm font-semibold">
        {label}
      </label>
      {children(id, note)}
      {error ? (
        <p id={note} role="alert" className="mt-1 text-xs text-bar">
          {error}
        </p>
      ) : (
        hint && (
          <p id={note} className="mt-1 text-xs text-ink2">
            {hint}
          </p>
        )
      )}
    </div>
  );
}

export const INPUT =
  "w-full rounded-[4px] border border-line2 bg-white px-[10px] py-[5px] text-sm placeholder:text-ink3 disabled:bg-linen disabled:text-ink2";
