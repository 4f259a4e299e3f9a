import { TEXT_FORMS, type TextForm } from '../core/content/textForms.ts';

const FORM_WORDS: Record<TextForm, string> = { md: 'as CommonMark', eml: 'as mail' };

/** Links by which texts are taken out, in each form. */
export const TakeOut = ({ path, words }: { path: string; words: string }) => (
  <p className="mt-4 flex flex-wrap gap-x-4 text-sm text-quiet print:hidden">
    {words}
    {TEXT_FORMS.map((form) => (
      <a key={form} className="link-quiet" href={`${path}?as=${form}`} download>
        {FORM_WORDS[form]}
      </a>
    ))}
  </p>
);
