import { audienceOf, groupsForm } from '../core/audience/form.ts';
import { EMPTY_CONTENT, simpleContent, type Content } from '../core/content/announcement.ts';
import { emptySection, plainSection } from '../core/content/section.ts';
import { EMPTY_PLAN, type Plan } from '../core/plan/plan.ts';
import { insertAnnouncement, setReview } from '../server/announcements/store.ts';
import { freezeVersion } from '../server/announcements/versionStore.ts';
import { insertSavedAudience } from '../server/saved-audiences/store.ts';
import { insertComment } from '../server/comments/store.ts';
import type { Database } from '../server/database/connection.ts';
import type { DemoPeople } from './people.ts';
import { doc } from './texts.ts';

/** What lies on the desk: drafts, one of them with a second person, templates and saved audiences. */
export async function layDesk(
  db: Database,
  people: DemoPeople,
  groups: ReadonlyMap<string, number>,
  boards: ReadonlyMap<string, number>,
): Promise<void> {
  const draft = (
    by: string,
    content: Content,
    to: string[],
    board: string | null,
    part: Partial<Plan> = {},
  ): Promise<number> =>
    insertAnnouncement(
      db,
      people.byMail(by),
      content,
      {
        ...EMPTY_PLAN,
        audience: audienceOf(groupsForm(to.map((name) => groups.get(name) ?? 0))),
        boards: board === null ? [] : [boards.get(board) ?? 0],
        ...part,
      },
      'draft',
    );
  await draft(
    'maud',
    simpleContent(
      'Rota for the winter readings',
      doc('Three people a week and station, from the first Monday.', 'Swaps go to the vault office.'),
    ),
    ['Vault keyholders'],
    'Vault alerts',
  );
  const tenth = simpleContent(
    'A tenth station: what we know so far',
    doc(
      'Nothing is decided. This is what the trustees are looking at.',
      '- A valley in the south, dry in summer.',
      '- A road, and people who know it.',
    ),
  );
  const tenthId = await draft('jago', tenth, ['Trustees'], null);
  await freezeVersion(db, tenthId, people.byMail('jago'), tenth, 'for review');
  await setReview(db, tenthId, 1, 'none', 'for review', people.byMail('jago'), null);
  await insertComment(db, {
    announcementId: tenthId,
    authorId: people.byMail('jago'),
    text: 'Maud Fenwright, is “nothing is decided” clear enough? I would rather not name the valley yet.',
    mentions: [people.byMail('maud')],
  });
  await draft('nuria', simpleContent('Transect in spring', doc('Who is in?')), ['Sant Elm'], 'Sant Elm');

  const template = (content: Content, part: Partial<Plan> = {}): Promise<number> =>
    insertAnnouncement(db, people.byMail('maud'), content, { ...EMPTY_PLAN, ...part }, 'template');
  await template(
    {
      ...EMPTY_CONTENT,
      title: 'Welcome to the network',
      byline: 'from the network office',
      sections: [
        plainSection({
          type: 'doc',
          content: [
            {
              type: 'paragraph',
              content: [
                { type: 'text', text: 'Welcome, ' },
                { type: 'field', attrs: { name: 'first name', fallback: '' } },
                { type: 'text', text: '. You belong to ' },
                { type: 'field', attrs: { name: 'station', fallback: 'the network' } },
                { type: 'text', text: ' now. Here is what happens next.' },
              ],
            },
          ],
        }),
        {
          ...emptySection('s2'),
          heading: 'In the first week',
          accent: 'verdigris',
          document: doc('- Collect your key card.', '- Walk the vault with a keyholder.'),
        },
        {
          ...emptySection('s3'),
          heading: 'Whom to ask',
          accent: 'slate',
          document: doc('Anybody with a green badge. Nobody minds being asked twice.'),
        },
      ],
    },
    { audience: audienceOf(groupsForm([groups.get('New this season') ?? 0])) },
  );
  await template(
    simpleContent(
      'Road closed',
      doc('The road at … is closed from … to …. Take the … road and allow … minutes more.'),
    ),
    { audience: audienceOf(groupsForm([groups.get('Field collectors on the road') ?? 0])) },
  );

  const saved = async (name: string, audience: ReturnType<typeof audienceOf>): Promise<void> => {
    if (audience) await insertSavedAudience(db, name, audience, people.byMail('maud'));
  };
  const groupTerm = (name: string) => ({ kind: 'group' as const, id: groups.get(name) ?? 0 });
  await saved(
    'The southern stations, those at work',
    audienceOf({
      to: ['Mallee Reach', 'Tarn Hollow'].map(groupTerm),
      also: [],
      except: [groupTerm('On leave')],
    }),
  );
  await saved(
    'Drivers with a lorry licence',
    audienceOf({
      to: [{ kind: 'occupation', occupation: 'driver' }],
      also: [{ kind: 'attribute', name: 'licence', value: 'lorry' }],
      except: [],
    }),
  );
}
