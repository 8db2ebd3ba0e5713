// A sentence of access: whom it is about in one colour, what and where in another.
import type { Shapes } from "../api/client";

export const WHO = ["role", "group", "account", "baseline"];

export function Sentence({ parts }: { parts: Shapes["PartShape"][] }) {
  const places = placed(parts);
  return (
    <>
      {places.map(({ at, part }) =>
        part.sort ? (
          <strong
            key={at}
            className={`font-semibold ${WHO.includes(part.sort) ? "text-[#2a63a8]" : "text-[#1f6f5c]"}`}
          >
            {part.text}
          </strong>
        ) : (
          <span key={at}>{part.text}</span>
        ),
      )}
    </>
  );
}

/** Each part with the place in the sentence at which it begins. */
function placed(parts: Shapes["PartShape"][]) {
  let at = 0;
  return parts.map((part) => {
    const here = { at, part };
    at += part.text.length;
    return here;
  });
}
