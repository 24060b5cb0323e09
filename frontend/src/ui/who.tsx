import { createContext, useContext, useMemo, useState, type ReactNode } from 'react';

interface Who {
  who: string;
  setWho: (name: string) => void;
}

const WhoContext = createContext<Who>({ who: '', setWho: () => undefined });
const KEY = 'fenwit-who';

/** Remembers, on this device, who is working: their name goes with every reading and confirmation. */
export function WhoProvider({ children }: { children: ReactNode }) {
  const [who, setName] = useState(() => localStorage.getItem(KEY) ?? '');
  const value = useMemo(
    () => ({
      who,
      setWho: (name: string) => {
        localStorage.setItem(KEY, name);
        setName(name);
      },
    }),
    [who],
  );
  return <WhoContext value={value}>{children}</WhoContext>;
}

export const useWho = () => useContext(WhoContext);

export function WhoField() {
  const { who, setWho } = useWho();
  return (
    <label className="flex items-center gap-2">
      <span className="quiet max-[1100px]:sr-only">at the bench</span>
      <input className="input w-28!" value={who} maxLength={120} placeholder="your name" onChange={(event) => setWho(event.target.value)} />
    </label>
  );
}
