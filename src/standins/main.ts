import { startConditionsStandIn } from './conditions/server.ts';
import { startMailStandIn } from './mail/server.ts';
import { startRecordsStandIn } from './records/server.ts';
import { startReceiverStandIn } from './receiver/server.ts';
import { startPushStandIn } from './push/server.ts';
import { startSignInStandIn } from './sign-in/server.ts';

const number = (name: string): number => {
  const value = Number(process.env[name]);
  if (!Number.isInteger(value) || value < 1) throw new Error(`${name} must be a port`);
  return value;
};

const mail = await startMailStandIn({
  smtpPort: number('SMTP_PORT'),
  webPort: number('MAILBOX_PORT'),
  handOn: {
    port: number('MAIL_IN_PORT'),
    domain: process.env.MAIL_IN_DOMAIN ?? '',
    server: process.env.MAIL_IN_AUTHSERV ?? '',
  },
});
const push = await startPushStandIn(number('PUSH_PORT'));
const conditions = await startConditionsStandIn(number('CONDITIONS_PORT'));
const receiver = await startReceiverStandIn(number('RECEIVER_PORT'), process.env.RECEIVER_SECRET ?? '');
const records = await startRecordsStandIn(number('RECORDS_PORT'));

const url = process.env.CLEAR_BELL_URL ?? '';
const signIn = await startSignInStandIn({
  port: number('SIGN_IN_PORT'),
  clientId: 'clear-bell',
  clientSecret: process.env.SIGN_IN_SECRET ?? '',
  back: `${url}/sign-in/back`,
  out: `${url}/sign-in`,
});

for (const signal of ['SIGTERM', 'SIGINT'] as const)
  process.on(
    signal,
    () =>
      void Promise.all([
        mail.stop(),
        push.stop(),
        conditions.stop(),
        receiver.stop(),
        records.stop(),
        signIn.stop(),
      ]).then(() => process.exit(0)),
  );
