/** Stress over rating; what lies beyond the rating is hatched, and said in words beside it. */
export function Bar({ share, name }: { share: number; name: string }) {
  const over = share > 1.0001;
  return (
    <div className="relative h-2.5 w-full bg-shade" role="img" aria-label={`${name}, ${Math.round(100 * share)} per cent of the rating`}>
      <div className={`h-full ${over ? 'bg-copper' : 'bg-ink'}`} style={{ width: `${100 * Math.min(1, share)}%` }} />
      {over && <span className="absolute -top-[7px] -right-1 text-note font-bold text-copper">△</span>}
    </div>
  );
}
