import { isNobody } from '../audience/expression.ts';
import { contentProblems, type Problem } from '../content/announcement.ts';
import { neverWords } from '../timing/recurrence.ts';
import { list } from '../words.ts';
import { fitsWhen, isAboutOne, isAboutPerson, type Automation } from './automation.ts';
import { conditionProblems, demandsFilled, type Fields } from './condition.ts';
import { isCall, tellsNoOther, type Call } from './calls.ts';
import { ALWAYS_FILLED } from './fields.ts';
import { fieldsIn } from './filling.ts';

const at = (field: string, detail: string): Problem => ({ field, detail });

/** Whether it is always known whom this means: otherwise something has to stand instead. */
function isAlwaysKnown(call: Call, { tell, when }: Automation): boolean {
  // Where it can go the other way, it is read by others, or on other boards.
  if (call === 'mention.everybody')
    return (
      (tell.boards.length > 0 || tell.boardField !== null) &&
      (tell.otherwise === null || tell.otherwise.boards.length > 0)
    );
  if (tell.to?.kind === 'named' || tell.to?.kind === 'author') return tell.otherwise === null;
  return isAboutPerson(when) && when.kind !== 'leaves' && tellsNoOther(tell);
}

/**
 * Fields of the text that may be empty when it is said: neither always there, nor demanded by the condition, nor with
 * something that stands instead. They are caught here, and not by the reader.
 */
function mayBeEmpty(automation: Automation, fields: Fields): string[] {
  const grouped = automation.each.kind === 'group' ? automation.each.field : null;
  const single = isAboutOne(automation.when) || automation.each.kind === 'each';
  return [
    ...new Set(
      fieldsIn(automation, fields)
        .filter(({ name, fallback }) => {
          if (fallback.trim() !== '' || ALWAYS_FILLED.has(name)) return false;
          if (isCall(name)) return !isAlwaysKnown(name, automation);
          if (name === grouped) return !demandsFilled(automation.if, name);
          // What several rows are spoken of at once holds only what they hold alike.
          return !single || !demandsFilled(automation.if, name);
        })
        .map(({ label }) => label || 'a field that is gone'),
    ),
  ];
}

/** Why somebody cannot be told: what sets it off does not say who they are. */
const UNFIT: Readonly<Record<string, string>> = {
  person: 'It is about no one person. Choose an audience, or whoever a column names.',
  invited: 'It is about no session. Choose an audience.',
  asked: 'It is about nothing that was asked. Choose an audience.',
  author: 'It is about nothing that was asked. Choose an audience.',
};

function targetProblems({ tell, when, each }: Automation, fields: Fields): Problem[] {
  const problems: Problem[] = [];
  const { to, boards, outside, boardField } = tell;
  const nobody = !to || (to.kind === 'audience' && isNobody(to.audience));
  if (nobody && boards.length === 0 && outside.length === 0 && boardField === null)
    problems.push(at('tell', 'It tells nobody. Choose people, a board, or an outside place.'));
  if (!fitsWhen(to, when)) problems.push(at('tell', UNFIT[to?.kind ?? ''] ?? 'Choose whom it tells.'));
  const named = [...(to?.kind === 'named' ? [to.field] : []), ...(boardField === null ? [] : [boardField])];
  if (named.some((field) => !fields.has(field)))
    problems.push(at('tell', 'A column that says who is told is not there any more. Choose another.'));
  if (named.length > 0 && each.kind === 'once' && !isAboutOne(when))
    problems.push(
      at(
        'tell',
        'Said once for all, it cannot go by a column of each. Say it for each, or choose an audience.',
      ),
    );
  return problems;
}

/** What keeps an automation from being put to work. Empty when nothing does. */
export function automationProblems(automation: Automation, fields: Fields): Problem[] {
  const { when, each, content, table, due } = automation;
  const problems: Problem[] = [];
  if (automation.name.trim() === '') problems.push(at('name', 'Give it a name.'));
  for (const detail of conditionProblems(automation.if, fields)) problems.push(at('if', detail));
  if (when.kind === 'schedule') {
    const never = neverWords(when.start, when.rule);
    if (never) problems.push(at('when', never));
    if (when.sheetId === null && automation.if.kind !== 'test' && automation.if.of.length > 0)
      problems.push(at('if', 'It looks at no records, so there is nothing to hold. Choose a record sheet.'));
    if (when.zone === null && (automation.tell.to?.kind !== 'audience' || due.kind === 'hour'))
      problems.push(
        at('when', 'On each reader’s clock it can only tell an audience, at the hour it recurs at.'),
      );
  }
  if (when.kind === 'changes' || when.kind === 'date') {
    const column = fields.get(`record.${when.column}`);
    if (!column) problems.push(at('when', 'The column it goes by is not there any more. Choose another.'));
    else if (when.kind === 'date' && column.kind !== 'date' && column.kind !== 'moment')
      problems.push(at('when', `${column.label} holds no dates. Choose a column that does.`));
    else if (when.kind === 'date' && column.kind === 'date' && when.unit !== 'days')
      problems.push(at('when', `${column.label} holds days: say how many days before or after.`));
  }
  if (each.kind === 'group' && !isAboutOne(when) && !fields.has(each.field))
    problems.push(at('each', 'The column it goes by is not there any more. Choose another.'));
  problems.push(...targetProblems(automation, fields));
  const withTable = table !== null && table.columns.some((name) => fields.has(name));
  for (const problem of contentProblems(content))
    if (!(withTable && problem.field === 'document'))
      problems.push({ ...problem, field: `content.${problem.field}` });
  if (table && table.columns.some((name) => !fields.has(name)))
    problems.push(at('table', 'The table has a column that is not there any more. Take it out.'));
  const empty = mayBeEmpty(automation, fields);
  if (empty.length > 0)
    problems.push(
      at(
        'content',
        `${list(empty, 'and')} may be empty when it is said. Say what stands instead, or let the condition ask that ${empty.length === 1 ? 'it is' : 'they are'} filled in.`,
      ),
    );
  if (automation.from !== null && automation.until !== null && automation.until < automation.from)
    problems.push(at('until', 'It ends before it begins. Choose a later last day.'));
  return problems;
}
