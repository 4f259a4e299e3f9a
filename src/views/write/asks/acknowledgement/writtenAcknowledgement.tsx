import {
  acknowledgement,
  type Acknowledgement,
} from '../../../../core/asks/acknowledgement/acknowledgement.ts';
import type { FieldsProps, WrittenKind } from '../kind.ts';
import { PreviewButton } from '../PreviewButton.tsx';

function Fields({ ask, onChange }: FieldsProps<Acknowledgement>) {
  return (
    <label className="flex flex-col gap-1">
      What they agree to by it, if anything
      <textarea
        className="textarea w-full"
        rows={2}
        maxLength={600}
        value={ask.statement}
        onChange={(event) => onChange({ ...ask, statement: event.target.value })}
      />
    </label>
  );
}

function Preview({ ask: { statement } }: { ask: Acknowledgement }) {
  const nothing = statement.trim() === '';
  return (
    <>
      {nothing ? null : <p dir="auto">{statement}</p>}
      <PreviewButton words={nothing ? 'Acknowledge' : 'I agree and acknowledge'} />
    </>
  );
}

export const ACKNOWLEDGEMENT: WrittenKind<Acknowledgement> = {
  begin: acknowledgement,
  Fields,
  joiners: true,
  Preview,
};
