import { Button, type ButtonProps } from "@mantine/core";
import { createLink } from "@tanstack/react-router";
import type { AnchorHTMLAttributes } from "react";

type Props = ButtonProps & Omit<AnchorHTMLAttributes<HTMLAnchorElement>, keyof ButtonProps>;

/** A button that leads to a place, as a link that can be opened in a tab of its own. */
export const ButtonLink = createLink((props: Props) => <Button component="a" {...props} />);
