import { FLAG_WORDS, PRESETS, purposeOf, SWITCH_WORDS } from '../../core/boards/switches.ts';
import { TextSetting } from './TextSetting.tsx';
import type { Settings, ChangeSettings } from './useBoardChanges.ts';

/** What may be done on a board, and how much of it. */
export function SwitchFields({
  settings,
  locked,
  wrong,
  onChange,
}: {
  settings: Settings;
  locked: boolean;
  /** What is wrong with a field. */
  wrong: (field: string) => string | undefined;
  onChange: ChangeSettings;
}) {
  const { switches } = settings;
  const purpose = purposeOf(switches);
  return (
    <section aria-labelledby="switches" className="border-t border-base-300 pt-4">
      <h2 id="switches" className="mb-1">
        What may be done here
      </h2>
      <p className="mb-3 text-sm text-quiet">
        {purpose ? PRESETS[purpose].words : 'Adjusted by hand.'} Those who moderate may always do all of it.
      </p>
      <div className="grid gap-3 sm:grid-cols-2">
        {(Object.keys(SWITCH_WORDS) as (keyof typeof SWITCH_WORDS)[]).map((name) => (
          <label key={name} className="flex flex-col gap-1">
            {SWITCH_WORDS[name].name}
            <select
              className="select w-full"
              disabled={locked}
              value={switches[name]}
              onChange={(event) => void onChange({ [name]: event.target.value })}
            >
              {Object.entries(SWITCH_WORDS[name].choices).map(([value, words]) => (
                <option key={value} value={value}>
                  {words}
                </option>
              ))}
            </select>
          </label>
        ))}
      </div>
      <div className="mt-3">
        {(Object.keys(FLAG_WORDS) as (keyof typeof FLAG_WORDS)[]).map((name) => (
          <label key={name} className="flex min-h-11 cursor-pointer items-center gap-3">
            <input
              type="checkbox"
              className="checkbox checkbox-primary"
              disabled={locked}
              checked={switches[name]}
              onChange={(event) => void onChange({ [name]: event.target.checked })}
            />
            {FLAG_WORDS[name]}
          </label>
        ))}
      </div>
      <div className="mt-3 flex flex-wrap gap-5">
        <TextSetting
          label="Posts pinned at once, at most"
          number
          value={String(settings.pinLimit)}
          disabled={locked}
          problem={wrong('pinLimit')}
          onSave={(value) => void onChange({ pinLimit: Number(value) })}
        />
        <TextSetting
          label="Sections in one post, at most"
          number
          value={String(settings.sectionLimit)}
          disabled={locked}
          problem={wrong('sectionLimit')}
          onSave={(value) => void onChange({ sectionLimit: Number(value) })}
        />
      </div>
    </section>
  );
}
