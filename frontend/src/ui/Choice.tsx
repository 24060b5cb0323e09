import { ToggleGroup } from 'radix-ui';

interface Props {
  label: string;
  value: string;
  options: readonly string[];
  onPick: (value: string) => void;
  /** How an option is called, where its key is not its name. */
  say?: (option: string) => string;
}

/** A few words to pick from, all of them in sight. */
export function Choice({ label, value, options, onPick, say = (o) => o }: Props) {
  return (
    <div className="flex items-center gap-3">
      <span className="quiet w-[150px] shrink-0">{label}</span>
      <ToggleGroup.Root
        type="single"
        value={value}
        onValueChange={(v) => v && v !== value && onPick(v)}
        aria-label={label}
        className="flex flex-wrap border-b border-rule"
      >
        {options.map((o) => (
          <ToggleGroup.Item
            key={o}
            value={o}
            className="min-h-10 min-w-10 cursor-pointer border-b-[3px] border-transparent px-2.5 text-muted data-[state=on]:border-copper data-[state=on]:font-bold data-[state=on]:text-ink"
          >
            {say(o)}
          </ToggleGroup.Item>
        ))}
      </ToggleGroup.Root>
    </div>
  );
}
