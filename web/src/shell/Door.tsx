// The page in front of the application: a banner with a title, for whoever is not signed in yet.
import type { ReactNode } from "react";

export function Door({ title, says, children }: { title: string; says: string; children: ReactNode }) {
  return (
    <div className="flex h-full flex-col items-center overflow-y-auto bg-linen">
      <div className="h-[47px] w-full shrink-0 border-b-[3px] border-brass bg-rod" />
      <main className="w-[360px] max-w-[92vw] bg-paper px-7 pt-8 pb-12 shadow-sm [clip-path:polygon(0_0,100%_0,100%_100%,50%_calc(100%-26px),0_100%)]">
        <h1 className="text-title">{title}</h1>
        <p className="mt-1 mb-5 text-sm text-ink2">{says}</p>
        {children}
      </main>
    </div>
  );
}
