import { Link } from "@tanstack/react-router";

interface PeopleLinksProps {
  people: { id: number; name: string; address: string | null }[];
}

/** Some people by name, each a link to them. */
export function PeopleLinks({ people }: PeopleLinksProps) {
  return people.map((one, place) => (
    <span key={one.id}>
      {place > 0 && ", "}
      <Link to="/contacts" search={{ person: one.id }}>
        <bdi>{one.name || one.address || "no name"}</bdi>
      </Link>
    </span>
  ));
}
