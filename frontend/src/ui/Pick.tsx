import { RadioGroup } from 'radix-ui';

/** One of a few things to choose from, side by side. */
export function Pick({ value, text }: { value: string; text: string }) {
  return (
    <label className="flex min-h-10 cursor-pointer items-center gap-2">
      <RadioGroup.Item value={value} className="flex size-5 items-center justify-center rounded-full border-2 border-ink">
        <RadioGroup.Indicator className="size-2.5 rounded-full bg-copper" />
      </RadioGroup.Item>
      {text}
    </label>
  );
}
