import { useReach, type Problem } from '../../api/client';
import { useJobInHand } from '../../job/context';
import { Refusal } from '../../ui/Refusal';
import { BuiltTabs } from '../shared/BuiltTabs';
import { framedBy } from '../shared/beside';
import { Parts } from '../shared/Parts';
import { ReachPlot } from '../shared/ReachPlot';
import { useDesign } from '../shared/useDesign';
import { useSettled } from '../shared/useSettled';
import { useBanks, type Bank } from './api';
import { BankList } from './BankList';
import { BankFields } from './BankFields';

const METHOD = 'series-capacitor';

/** Speed over capacitance, the banks best first, and what each part bears. */
export default function Sizer() {
  const { page, frame: whole, draft, setDraft } = useJobInHand();
  const frame = framedBy(whole, METHOD);
  const { keep, saveJob, problem } = useDesign();
  const wanted = useSettled(draft?.wanted_rpm ?? null);
  const banks = useBanks(page, wanted);
  const reach = useReach(page, METHOD);
  const choose = (bank: Bank): Promise<Problem | null> =>
    keep(bank, { what: 'The bank', mine: bank.capacitors.map((c) => c.measured || c.value || 'from the shelf').join(' and ') });
  const saveSizing = (sizing: Parameters<typeof saveJob>[0]['sizing']) => saveJob({ sizing }, 'What the search works with');
  return (
    <div className="flex h-full min-h-[440px] flex-col max-[900px]:h-auto">
      <div className="grid min-h-[220px] flex-[1_1_220px] grid-cols-[minmax(0,1.15fr)_minmax(370px,1fr)] gap-6 max-[900px]:flex-none max-[900px]:grid-cols-1 max-[900px]:grid-rows-[280px_280px]">
        {reach.data ? <ReachPlot reach={reach.data} frame={frame} /> : <p className="quiet self-center">Solving the fan over all capacitors…</p>}
        <BankList
          page={page}
          banks={banks.data ?? null}
          pending={banks.isFetching}
          wanted={wanted ?? page.job.wanted_rpm}
          full={frame.full?.value ?? 1}
          built={frame.miss_text}
          draft={draft}
          setDraft={setDraft}
          onChoose={(bank) => void choose(bank)}
          saveSizing={saveSizing}
        />
      </div>
      <Refusal problem={problem} />
      <BuiltTabs frame={frame} noun="bank">
        <Parts
          frame={frame}
          empty="Choose a bank above: pointing at one tries it on the staff and the path, a click keeps it."
          fields={(part) => <BankFields part={part} choose={choose} saveSizing={saveSizing} />}
        />
      </BuiltTabs>
    </div>
  );
}
