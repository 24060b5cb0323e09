/** Amber hatching: hazard only. */
export function Hatch({ id }: { id: string }) {
  return (
    <defs>
      <pattern id={id} width={7} height={7} patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <line x1={0} x2={0} y1={0} y2={7} stroke="var(--color-hazard)" strokeWidth={1.6} />
      </pattern>
    </defs>
  );
}
