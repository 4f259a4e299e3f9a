import { bringUp } from '../../scripts/house/bringUp.ts';

/** Brings a whole application up with fresh demo data for the browser tests, and down again after them. */
export default async function house(): Promise<() => Promise<void>> {
  const up = await bringUp({
    place: 'check',
    port: 0,
    fresh: true,
    demo: true,
    durable: false,
    say: (line) => console.log(`  ${line}`),
    environment: { LOG_LEVEL: 'warn' },
  });
  process.env.HOUSE_URL = up.url;
  process.env.HOUSE_MAILBOX = up.mailboxUrl;
  process.env.HOUSE_DEVICES = up.devicesUrl;
  return up.stop;
}
