import { startConditionsStandIn } from './conditions/server.ts';
import { startMailStandIn } from './mail/server.ts';
import { startReceiverStandIn } from './receiver/server.ts';
import { startPushStandIn } from './push/server.ts';

const number = (name: string): number => {
  const value = Number(process.env[name]);
  if (!Number.isInteger(value) || value < 1) throw new Error(`${name} must be a port`);
  return value;
};

const mail = await startMailStandIn({ smtpPort: number('SMTP_PORT'), webPort: number('MAILBOX_PORT') });
const push = await startPushStandIn(number('PUSH_PORT'));
const conditions = await startConditionsStandIn(number('CONDITIONS_PORT'));
const receiver = await startReceiverStandIn(number('RECEIVER_PORT'), process.env.RECEIVER_SECRET ?? '');

for (const signal of ['SIGTERM', 'SIGINT'] as const)
  process.on(
    signal,
    () =>
      void Promise.all([mail.stop(), push.stop(), conditions.stop(), receiver.stop()]).then(() =>
        process.exit(0),
      ),
  );
