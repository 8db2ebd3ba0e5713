// A part of the panel beside a board: a small heading and what belongs under it.
import type { ReactNode } from "react";

export function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section className="mt-4 text-read">
      <h2 className="mb-[3px] text-xs font-semibold text-ink2">{title}</h2>
      {children}
    </section>
  );
}
