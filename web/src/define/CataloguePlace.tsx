// What there is to say something about: extensions and what they bring, markup sets and what they let through.

import { TextLink } from "../shared/TextLink";
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
          <TextLink to="/define?show=new">somebody has looked at it</TextLink>.
        </p>
        <p className="mt-2">
          <TextLink to="/define/kinds">Kinds of content and their fields</TextLink>
        </p>
        <Extensions />
        <MarkupSets roles={roles} />
      </div>
    </section>
  );
}
