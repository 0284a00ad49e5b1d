/** The mark: a garnet crystal, a rhombic dodecahedron seen along an axis. */
export function Mark({ size = 20 }: { size?: number }) {
  return (
    <svg width={size} height={size} viewBox="0 0 20 20" aria-hidden="true">
      <path d="M10 1l8 4.5v9L10 19l-8-4.5v-9z" fill="#2fa574" />
      <path
        d="M10 1v6.2l8 7.3M10 7.2L2 14.5M10 7.2L2 5.5M10 7.2l8-1.7M10 19v-6"
        stroke="#0f3226"
        strokeWidth="1.1"
        fill="none"
      />
    </svg>
  );
}
