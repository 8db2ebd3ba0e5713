// The dark bar across the top; the place one is in hangs from it as a cloth.
import type { ReactNode } from "react";
import { NavLink } from "react-router";

export type Hanging = { to: string; name: string; note?: string };

function Brand() {
  return (
    <span className="mr-[26px] flex items-center max-[760px]:mr-0 gap-[9px] text-sentence font-bold tracking-[.01em] text-[#efe9f6]">
      <svg width="24" height="28" viewBox="0 0 24 28" aria-hidden="true">
        <path d="M1 3H23" stroke="#c39134" strokeWidth="2.4" />
        <path d="M5 5H19V26L15.5 22.5L12 26L8.5 22.5L5 26Z" fill="#f5f3ee" />
        <path d="M5 10H19V15H5Z" fill="#c39134" />
      </svg>
      <span className="max-[760px]:hidden">Gonfalon</span>
    </span>
  );
}

function Hang({ to, name, note, flat }: Hanging & { flat?: boolean }) {
  return (
    <NavLink
      to={to}
      className={({ isActive }) =>
        isActive
          ? flat
            ? "block h-[44px] self-start border-b-[3px] border-[#efe9f6] px-[17px] pt-[11px] font-bold text-white"
            : "relative z-10 block h-[66px] self-start bg-paper px-[17px] pt-[11px] font-bold whitespace-nowrap text-ink shadow-[inset_0_3px_0_var(--color-brass)] [clip-path:polygon(0_0,100%_0,100%_100%,50%_calc(100%-11px),0_100%)] max-[760px]:h-[44px] max-[760px]:px-[11px] max-[760px]:[clip-path:none]"
          : "block h-[44px] self-start px-[17px] pt-[11px] font-medium whitespace-nowrap text-rod3 hover:text-white max-[1180px]:px-[11px]"
      }
    >
      {({ isActive }) => (
        <>
          {name}
          {note && (
            <small
              className={
                isActive && !flat
                  ? "block text-xs leading-tight font-normal text-ink2 max-[760px]:hidden"
                  : "ml-[5px] text-xs font-normal text-[#b3a8c4] max-[1180px]:hidden"
              }
            >
              {note}
            </small>
          )}
        </>
      )}
    </NavLink>
  );
}

/** With `flat`, when a strip follows, the place one is in is marked without hanging over it. */
export function Crossbar({
  places,
  more,
  flat,
  children,
}: {
  places: Hanging[];
  more: Hanging[];
  flat: boolean;
  children: ReactNode;
}) {
  return (
    <header className="on-dark relative z-20 flex h-[47px] shrink-0 items-center gap-[6px] border-b-[3px] border-brass bg-rod px-[18px] text-[#efe9f6] max-[760px]:px-2">
      <Brand />
      <nav
        aria-label="Places"
        className="flex items-center gap-[2px] self-start max-[760px]:min-w-0 max-[760px]:overflow-x-auto max-[760px]:overflow-y-hidden"
      >
        {places.map((place) => (
          <Hang key={place.to} {...place} flat={flat} />
        ))}
        {more.length > 0 && places.length > 0 && (
          <span className="mx-[10px] mt-[12px] h-[20px] w-px self-start bg-[#4d4060]" />
        )}
        {more.map((place) => (
          <Hang key={place.to} {...place} flat={flat} />
        ))}
      </nav>
      <span className="flex-1" />
      {children}
    </header>
  );
}
