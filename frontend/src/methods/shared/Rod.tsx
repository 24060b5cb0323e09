interface Props {
  speeds: readonly number[];
  wanted: readonly number[];
  full: number;
}

/** Speeds over full speed as strokes: tall ones given, short ones wanted. */
export function Rod({ speeds, wanted, full }: Props) {
  const at = (rpm: number) => `${(99 * rpm) / full}%`;
  return (
    <svg className="h-6 w-full" aria-hidden="true">
      <line x1="0" x2="100%" y1={22} y2={22} stroke="var(--color-rule)" />
      {wanted.map((w) => (
        <line key={w} x1={at(w)} x2={at(w)} y1={16} y2={24} stroke="var(--color-muted)" />
      ))}
      {speeds.map((s) => (
        <line key={s} x1={at(s)} x2={at(s)} y1={2} y2={20} stroke="currentColor" strokeWidth={3} />
      ))}
    </svg>
  );
}
