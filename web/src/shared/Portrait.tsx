// Whom a page is about: their picture, or the initials where there is none.
export function Portrait({ name, picture }: { name: string; picture?: string | null }) {
  const initials = name
    .split(/\s+/)
    .map((part) => part[0])
    .filter((_, i, all) => i === 0 || i === all.length - 1)
    .join("");
  if (picture) return <img src={picture} alt="" className="size-[50px] shrink-0 rounded-md object-cover" />;
  return (
    <span
      aria-hidden="true"
      className="flex size-[50px] shrink-0 items-center justify-center rounded-md bg-linear-to-br from-[#6b5a3c] to-[#7d4f3c] text-lg font-semibold text-white"
    >
      {initials}
    </span>
  );
}
