import { canAskAgain } from '../../core/asks/ask.ts';
import { CorrectionDialog } from './CorrectionDialog.tsx';
import { titleAsSent, type Choices, type Draft } from './draft.ts';
import { ConflictQuestion, DiscardQuestion } from './DraftQuestions.tsx';
import { LastQuestion } from './LastQuestion.tsx';
import type { Writing } from './useWriting.ts';

/** What is asked about a draft: whether it goes, whether it is thrown away, and which text stays where two were written. */
export function Questions({
  draft,
  choices,
  zone,
  nowMs,
  writing,
  discarding,
  onKeep,
}: {
  draft: Draft;
  choices: Choices;
  zone: string;
  nowMs: number;
  writing: Writing;
  discarding: boolean;
  /** It is not thrown away. */
  onKeep: () => void;
}) {
  const { content, plan, forecast, sending, saving, deeds, busy, error } = writing;
  const discard = async (): Promise<void> => {
    if (!(await deeds.discard())) onKeep();
  };
  return (
    <>
      <LastQuestion
        open={sending.asking === 'send'}
        forecast={forecast}
        plan={plan}
        content={content}
        title={titleAsSent(content, choices)}
        openComments={sending.openComments}
        zone={zone}
        nowMs={nowMs}
        busy={busy}
        error={error}
        onSend={() => void sending.goOut('send')}
        onClose={sending.close}
      />
      {sending.asking === 'correct' ? (
        <CorrectionDialog
          draftId={draft.id}
          asks={plan.ask.kind !== 'nothing'}
          mayAskAgain={canAskAgain(plan.ask)}
          busy={busy}
          error={error}
          onPublish={(correction) => void sending.goOut('correct', correction)}
          onClose={sending.close}
        />
      ) : null}
      <DiscardQuestion open={discarding} onDiscard={() => void discard()} onClose={onKeep} />
      <ConflictQuestion
        conflict={saving.state === 'conflict' ? saving.conflict : null}
        zone={zone}
        nowMs={nowMs}
        onSeparate={() => void deeds.asSeparate({ content, plan })}
        onSaveOver={(conflict) => void writing.saveOver(conflict)}
      />
    </>
  );
}
