import { Alert, Button, Code, CopyButton, Group, Text } from "@mantine/core";
import type { ReactNode } from "react";

/** A secret that is told this once: to be copied now. */
export function Once({ secret, label, children }: { secret: string; label: string; children: ReactNode }) {
  return (
    <Alert variant="outline" title={label}>
      <Group gap="xs" wrap="nowrap" align="start">
        <Code block style={{ flex: 1, whiteSpace: "pre-wrap", wordBreak: "break-all" }}>
          {secret}
        </Code>
        <CopyButton value={secret}>
          {({ copied, copy }) => <Button onClick={copy}>{copied ? "Copied" : "Copy"}</Button>}
        </CopyButton>
      </Group>
      <Text className="soft" mt={8} size="sm">
        {children}
      </Text>
    </Alert>
  );
}
