/** How texts are taken out: CommonMark with front matter, or mail (RFC 5322). */
export const TEXT_FORMS = ['md', 'eml'] as const;
export type TextForm = (typeof TEXT_FORMS)[number];
