import { Container, type MantineSpacing, Stack } from "@mantine/core";
import type { ReactNode } from "react";

interface PageProps {
  /** Between the parts, where they do not keep a distance of their own. */
  gap?: MantineSpacing;
  className?: string | undefined;
  children: ReactNode;
}

/** A page of one column: every one has the same width and the same margins. */
export function Page({ gap = 0, className, children }: PageProps) {
  return (
    <Container size={1120} px={24} pt={14} pb={48} {...(className && { className })}>
      <Stack gap={gap}>{children}</Stack>
    </Container>
  );
}
