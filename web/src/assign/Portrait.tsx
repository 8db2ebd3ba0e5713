// Whom a page is about: the initials, where there is no picture.
export function Portrait({ name }: { name: string }) {
  const initials = name
    .split(/\s+/)
    .map((part) => part[0])
    .filter((_, i, all) => i === 0 || i === all.length - 1)
    .join("");
  return (
    <span
      aria-hidden="true"
      className="flex size-[50px] shrink-0 items-center justify-center rounded-md bg-linear-to-br from-[#6b5a3c] to-[#7d4f3c] text-lg font-semibold text-white"
    >
      {initials}
    </span>
  );
}
