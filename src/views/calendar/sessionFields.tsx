import type { FieldPath, FieldValues } from 'react-hook-form';
import type { AudienceChoices } from '../../core/audience/choices.ts';
import type { Audience } from '../../core/audience/expression.ts';
import { idOrNone, SelectField } from '../../ui/form/fields.tsx';
import type { ServerForm } from '../../ui/form/useServerForm.ts';
import { Phrases } from '../../ui/Phrases.tsx';

const REMIND: [number, string][] = [
  [10, '10 minutes before'],
  [30, 'half an hour before'],
  [60, 'an hour before'],
  [120, '2 hours before'],
  [1440, 'a day before'],
  [2880, '2 days before'],
  [10_080, 'a week before'],
];

/** How long before it begins those are reminded who have not said no. */
export function RemindField<T extends FieldValues>({
  form,
  name,
}: {
  form: ServerForm<T>;
  name: FieldPath<T>;
}) {
  return (
    <SelectField form={form} name={name} label="Remind who has not said no" className="w-64" read={idOrNone}>
      <option value="">not at all</option>
      {REMIND.map(([minutes, words]) => (
        <option key={minutes} value={minutes}>
          {words}
        </option>
      ))}
    </SelectField>
  );
}

/** An audience that begins with a group, and is made narrower or wider by phrases. */
export function GroupsAndPhrases({
  audience,
  choices,
  onChange,
}: {
  audience: Audience | null;
  choices: AudienceChoices;
  onChange: (audience: Audience | null) => void;
}) {
  const add = (groupId: number): void => {
    const group: Audience = { kind: 'group', id: groupId };
    if (audience === null) onChange(group);
    else if (audience.kind === 'any') onChange({ kind: 'any', of: [...audience.of, group] });
    else onChange({ kind: 'any', of: [audience, group] });
  };
  return (
    <div className="flex flex-col gap-3">
      <label className="flex flex-col gap-1">
        A group
        <select className="select w-full" value="" onChange={(event) => add(Number(event.target.value))}>
          <option value="">Choose …</option>
          {choices.groups.map((group) => (
            <option key={group.id} value={group.id}>
              {group.name}
            </option>
          ))}
        </select>
      </label>
      <Phrases audience={audience} label="Whom it is for" choices={choices} onChange={onChange} />
    </div>
  );
}
