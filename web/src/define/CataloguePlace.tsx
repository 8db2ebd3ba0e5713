// What there is to say something about: extensions and what they bring, markup sets and what they let through.
import { Link } from "react-router";
import { useRoleMap } from "../shared/useRoles";
import { Extensions } from "./Extensions";
import { MarkupSets } from "./MarkupSets";

export function CataloguePlace() {
  const roles = useRoleMap();
  return (
    <section className="min-w-0 flex-1 overflow-y-auto px-[26px] pt-[30px] pb-10">
      <div className="max-w-[940px]">
        <h1>Catalogue</h1>
        <p className="mt-1 max-w-[70ch] text-ink2">
          What roles can say something about comes from the kinds of content that are installed, from
          extensions, and from the markup sets made here. What is new is given to nobody; boards mark it until{" "}
          <Link to="/define?show=new" className="underline decoration-line2 underline-offset-2">
            somebody has looked at it
          </Link>
          .
        </p>
        <Extensions />
        <MarkupSets roles={roles} />
      </div>
    </section>
  );
}
