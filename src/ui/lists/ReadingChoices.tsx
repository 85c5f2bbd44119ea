'use client';
/** How a list is read: every guess with its confidence, and every one can be changed. */
import type { DraftChoices, DraftSummary } from '@/core/taglist/draft.ts';
import type { Layout } from '@/core/taglist/layout.ts';
import { DELIMITERS, ENCODINGS, type Delimiter, type Encoding } from '@/core/taglist/written.ts';
import { Choice, Typed } from './Choice.tsx';
import { ColumnsTable } from './ColumnsTable.tsx';
import { OpenQuestions } from './OpenQuestions.tsx';

const DELIMITER_WORDS: Readonly<Record<Delimiter, string>> = { ',': 'comma', ';': 'semicolon', '\t': 'tab', '|': 'pipe' };
const LAYOUT_WORDS: Readonly<Record<Layout, string>> = {
  none: 'not known',
  words: 'a word or more each',
  bytes: 'byte after byte',
  even: 'byte after byte, words at even ones',
  aligned: 'aligned to their size',
};

interface ReadingChoicesProps {
  readonly summary: DraftSummary;
  readonly choices: DraftChoices;
  readonly isBusy: boolean;
  readonly onChange: (choices: DraftChoices) => void;
}

export function ReadingChoices({ summary, choices, isBusy, onChange }: ReadingChoicesProps) {
  const change = (changed: Partial<DraftChoices>): void => onChange({ ...choices, ...changed });
  const { format } = summary;
  const isTable = format === 'delimited' || format === 'workbook';
  const isText = format !== 'workbook';
  const isDeclared = format === 'declarations' || format === 'plcopen';
  const anew = { columns: undefined, headings: undefined, headerAt: undefined, splits: undefined };
  const headerRows = [...new Set([...Array.from({ length: 10 }, (_, i) => i), summary.headerAt])].filter((at) => at >= 0);
  return (
    <section aria-label="How the list is read" className="card-flat flex max-h-[40%] shrink-0 flex-col gap-3 overflow-auto p-3 text-[13px]">
      <div className="grid grid-cols-5 gap-4">
        {isText ? (
          <Choice
            label="Encoding"
            help={
              summary.encodingConfidence >= 1
                ? 'Certain.'
                : `Guessed, ${Math.round(summary.encodingConfidence * 100)} % sure: look at the letters below.`
            }
            value={summary.encoding}
            options={ENCODINGS}
            isBusy={isBusy}
            onChoose={(encoding) => change({ encoding: encoding as Encoding })}
          />
        ) : null}
        {summary.sheets.length > 1 ? (
          <Choice
            label="Sheet"
            value={summary.sheet}
            options={summary.sheets.map((sheet) => [sheet, sheet])}
            isBusy={isBusy}
            onChoose={(sheet) => change({ ...anew, sheet })}
          />
        ) : null}
        {format === 'delimited' ? (
          <Choice
            label="Delimiter"
            value={summary.delimiter}
            options={DELIMITERS.map((d) => [d, DELIMITER_WORDS[d]])}
            isBusy={isBusy}
            onChoose={(delimiter) => change({ ...anew, delimiter: delimiter as Delimiter })}
          />
        ) : null}
        {isTable ? (
          <>
            <Choice
              label="Headings"
              help="The row that names the columns."
              value={String(summary.headerAt)}
              options={[['-1', 'there are none'], ...headerRows.map((at) => [String(at), `in row ${at + 1}`] as const)]}
              isBusy={isBusy}
              onChoose={(at) => change({ headerAt: Number(at), columns: undefined, headings: undefined })}
            />
            <Choice
              label="Decimals"
              help="In the ranges."
              value={summary.decimalComma ? 'comma' : 'point'}
              options={[
                ['point', '0.5 point'],
                ['comma', '0,5 comma'],
              ]}
              isBusy={isBusy}
              onChoose={(decimals) => change({ decimalComma: decimals === 'comma' })}
            />
          </>
        ) : null}
        {isDeclared ? (
          <>
            <Choice
              label="Structure layout"
              help={
                summary.unplaced > 0
                  ? `See the controller’s manual: ${summary.unplaced} values have no address until it is said.`
                  : 'No standard says how: see the controller’s manual.'
              }
              value={summary.layout}
              options={Object.entries(LAYOUT_WORDS)}
              isBusy={isBusy}
              onChoose={(layout) => change({ layout: layout as Layout })}
            />
            <Typed
              label="Length of a STRING"
              help="Where the program does not give it."
              value={choices.textLength === undefined ? '' : String(choices.textLength)}
              isBusy={isBusy}
              onSet={(text) => change({ textLength: /^\d{1,4}$/.test(text) ? Number(text) : undefined })}
            />
          </>
        ) : null}
        {format === 'declarations' ? (
          <Typed
            label="Pragma that marks for panels"
            help="The word in it, as the program writes it; empty for none."
            value={choices.panelMark ?? ''}
            isBusy={isBusy}
            onSet={(text) => change({ panelMark: text.trim() === '' ? undefined : text.trim() })}
          />
        ) : null}
        <Typed
          label="Name prefix"
          help="Keeps names of like devices apart."
          value={choices.prefix ?? ''}
          isBusy={isBusy}
          onSet={(prefix) => change({ prefix })}
        />
      </div>
      {summary.accented.length > 0 ? (
        <p className="truncate" data-accented>
          <span className="quiet">Letters of the file:</span> {summary.accented.join(' · ')}
        </p>
      ) : null}
      <OpenQuestions summary={summary} choices={choices} isBusy={isBusy} onChange={change} />
      {isTable ? <ColumnsTable summary={summary} choices={choices} isBusy={isBusy} onChange={change} /> : null}
    </section>
  );
}
