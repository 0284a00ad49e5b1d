import { ButtonLink, Empty } from "../ui";

/** An address at which there is nothing. */
export function NotFoundPage() {
  return (
    <Empty title="There is nothing at this address">
      It may have been removed, or the address is not complete.
      <p>
        <ButtonLink to="/">Go to the desk</ButtonLink>
      </p>
    </Empty>
  );
}
