import { useWatch } from 'react-hook-form';
import type { NamedValue } from '../../core/automation/source.ts';
import type { GatewayChoices } from '../../core/gateways/choices.ts';
import type { HookIn, HookTarget } from '../../core/gateways/hookIn.ts';
import { MOST_A_MINUTE } from '../../core/gateways/limits.ts';
import {
  FormProblem,
  idOrNone,
  LinesField,
  NumberField,
  SelectField,
  TextField,
} from '../../ui/form/fields.tsx';
import { NamedValuesField } from '../../ui/form/NamedValuesField.tsx';
import { useServerForm, type ServerForm } from '../../ui/form/useServerForm.ts';
import { useSentWay, WayForm } from './WayForm.tsx';

interface Given {
  name: string;
  target: HookTarget['kind'];
  boardId: number | null;
  groupId: number | null;
  byMail: boolean;
  mail: { takes: boolean; from: string; members: boolean };
  senderId: number | null;
  held: boolean;
  perMinute: number;
  shape: 'own' | 'pointers';
  mapping: { title: string; text: string };
  fields: NamedValue[];
}

const targetOf = ({ target, boardId, groupId, byMail }: Given): HookTarget => {
  switch (target) {
    case 'board':
      return { kind: 'board', boardId: boardId ?? 0 };
    case 'group':
      return { kind: 'group', groupId: groupId ?? 0, mail: byMail };
    case 'automations':
      return { kind: 'automations' };
  }
};

const hookOf = (given: Given): HookIn => ({
  name: given.name,
  target: targetOf(given),
  senderId: given.senderId,
  held: given.held,
  perMinute: given.perMinute,
  mapping: given.target !== 'automations' && given.shape === 'pointers' ? given.mapping : null,
  fields: given.target === 'automations' || given.shape === 'pointers' ? given.fields : [],
  mail: given.mail.takes
    ? {
        from: given.mail.from.split(/[\s,;]+/).filter((each) => each !== ''),
        members: given.target === 'board' && given.mail.members,
      }
    : null,
});

function begin(hook: HookIn | null, choices: GatewayChoices): Given {
  const open = choices.boards.find((board) => board.gateways) ?? choices.boards[0];
  const target = hook?.target ?? { kind: 'board', boardId: open?.id ?? 0 };
  return {
    name: hook?.name ?? '',
    target: target.kind,
    boardId: target.kind === 'board' ? target.boardId : (open?.id ?? null),
    groupId: target.kind === 'group' ? target.groupId : (choices.groups[0]?.id ?? null),
    byMail: target.kind === 'group' && target.mail,
    mail: {
      takes: hook?.mail != null,
      from: hook?.mail?.from.join('\n') ?? '',
      members: hook?.mail?.members ?? true,
    },
    senderId: hook?.senderId ?? null,
    held: hook?.held ?? false,
    perMinute: hook?.perMinute ?? 30,
    shape: hook?.mapping ? 'pointers' : 'own',
    mapping: hook?.mapping ?? { title: '/title', text: '/text' },
    fields: hook?.fields ?? [],
  };
}

/** A way in to be made or changed. Once it is made its secret is told. */
export function HookInDialog({
  given,
  choices,
  onClose,
}: {
  given: { id: number; hook: HookIn; revision: number } | null;
  choices: GatewayChoices;
  onClose: () => void;
}) {
  const { made, send } = useSentWay('in', given);
  const form = useServerForm<Given>({
    values: begin(given?.hook ?? null, choices),
    send: async (filled) => {
      await send(hookOf(filled));
      form.reset(filled);
      if (given) onClose();
    },
  });
  return (
    <WayForm
      way="in"
      changes={given !== null}
      made={made}
      secretWords="The outside system signs with it, or sends it along."
      busy={form.formState.isSubmitting}
      onSubmit={form.submit}
      onClose={onClose}
    >
      <TextField form={form} name="name" label="Which system posts here" maxLength={80} />
      <Target form={form} choices={choices} />
      {choices.takesMail ? <TakesMail form={form} /> : null}
      <NumberField
        form={form}
        name="perMinute"
        label="At most so many a minute"
        min={1}
        max={MOST_A_MINUTE}
        className="self-start"
      />
      <FormProblem form={form} />
    </WayForm>
  );
}

const Problem = ({ words }: { words: string | undefined }) =>
  words === undefined ? null : <span className="text-error">{words}</span>;

const KINDS: [HookTarget['kind'], string][] = [
  ['board', 'It goes up on a board'],
  ['group', 'It reaches a group'],
  ['automations', 'It sets off automations'],
];

/** Whether it has a mail address as well, and from whom mail is taken there. */
function TakesMail({ form }: { form: ServerForm<Given> }) {
  const [takes, target] = useWatch({ control: form.control, name: ['mail.takes', 'target'] });
  return (
    <fieldset>
      <legend className="mb-1 font-semibold">Mail</legend>
      <label className="flex min-h-10 items-center gap-2">
        <input type="checkbox" className="checkbox checkbox-primary" {...form.register('mail.takes')} />
        It takes mail too, at an address of its own
      </label>
      {takes ? (
        <div className="flex flex-col gap-2 pl-8">
          {target === 'board' ? (
            <label className="flex min-h-10 items-center gap-2">
              <input
                type="checkbox"
                className="checkbox checkbox-primary"
                {...form.register('mail.members')}
              />
              Whoever may post on the board writes there by mail, under their own name
            </label>
          ) : null}
          <LinesField
            form={form}
            name="mail.from"
            label="Also from these addresses (one a line; @place.example for all of a domain)"
          />
        </div>
      ) : null}
    </fieldset>
  );
}

/** Where what comes in goes, and how it is read. */
function Target({ form, choices }: { form: ServerForm<Given>; choices: GatewayChoices }) {
  const [target, shape] = useWatch({ control: form.control, name: ['target', 'shape'] });
  const kinds = choices.groups.length > 0 ? KINDS : KINDS.slice(0, 1);
  return (
    <>
      <fieldset>
        <legend className="mb-1 font-semibold">What becomes of it</legend>
        {kinds.map(([kind, words]) => (
          <label key={kind} className="flex min-h-10 items-center gap-2">
            <input type="radio" value={kind} className="radio radio-primary" {...form.register('target')} />
            {words}
          </label>
        ))}
        <Problem words={form.formState.errors.target?.message} />
      </fieldset>
      {target === 'board' ? (
        <>
          <SelectField form={form} name="boardId" label="The board" read={idOrNone}>
            {choices.boards.map((board) => (
              <option key={board.id} value={board.id}>
                {board.name}
                {board.gateways ? '' : ' (takes nothing from outside yet)'}
              </option>
            ))}
          </SelectField>
          <label className="flex min-h-10 items-center gap-2">
            <input type="checkbox" className="checkbox checkbox-primary" {...form.register('held')} />A
            moderator looks at each before it is up
          </label>
        </>
      ) : null}
      {target === 'group' ? (
        <>
          <SelectField form={form} name="groupId" label="The group" read={idOrNone}>
            {choices.groups.map((group) => (
              <option key={group.id} value={group.id}>
                {group.name}
              </option>
            ))}
          </SelectField>
          <label className="flex min-h-10 items-center gap-2">
            <input type="checkbox" className="checkbox checkbox-primary" {...form.register('byMail')} />
            By mail too
          </label>
        </>
      ) : null}
      {target === 'automations' ? (
        <NamedValuesField form={form} name="fields" legend="The values automations use" least={1} />
      ) : (
        <>
          <SelectField form={form} name="senderId" label="From whom it comes" read={idOrNone}>
            <option value="">the name of the system</option>
            {choices.senders.map((sender) => (
              <option key={sender.id} value={sender.id}>
                {sender.name}
              </option>
            ))}
          </SelectField>
          <SelectField form={form} name="shape" label="What it sends">
            <option value="own">messages as described here: title, text, sections</option>
            <option value="pointers">JSON or events of its own, read by pointers</option>
          </SelectField>
          {shape === 'pointers' ? (
            <>
              <div className="flex flex-wrap gap-3">
                <TextField form={form} name="mapping.title" label="Where the title stands" maxLength={200} />
                <TextField form={form} name="mapping.text" label="Where the text stands" maxLength={200} />
              </div>
              <Problem words={form.formState.errors.mapping?.message} />
              <NamedValuesField form={form} name="fields" legend="Values shown under the text" least={0} />
            </>
          ) : null}
        </>
      )}
    </>
  );
}
