import { FUNCTIONS } from '@/core/expression/functions.ts';
import { Fold } from '../parts/Fold.tsx';

/** All there is to write an expression with. */
export function FunctionHelp() {
  return (
    <Fold title="Operators and functions" summary={`${FUNCTIONS.length} functions`}>
      <p className="quiet mb-2 text-xs">
        A tag is named by its path, <span className="num">KILN.Bed.temp</span>; a part with spaces stands in quotation marks. Operators are{' '}
        <span className="num">+ − * / mod ** = &lt;&gt; &lt; &lt;= &gt; &gt;= and or xor not</span>; texts are written{' '}
        <span className="num">&apos;on&apos;</span>, numbers <span className="num">1.5</span>, <span className="num">16#FF</span> or{' '}
        <span className="num">2#1010</span>.
      </p>
      <dl className="grid max-h-56 grid-cols-[auto_1fr] gap-x-4 gap-y-0.5 overflow-y-auto text-xs">
        {FUNCTIONS.map(({ form, help }) => (
          <div key={form} className="contents">
            <dt className="num">{form}</dt>
            <dd className="quiet">{help}</dd>
          </div>
        ))}
      </dl>
    </Fold>
  );
}
