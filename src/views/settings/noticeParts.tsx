import {
  NOTICE_KINDS,
  NOTICE_WORDS,
  TIMES,
  type Device,
  type NoticeChoice,
  type NoticeChoices,
  type NoticeKind,
  type NoticeTime,
} from '../../core/notices/notice.ts';
import { shortDate } from '../../core/timing/words.ts';
import { request } from '../../ui/api.ts';

const TIME_WORDS: Record<NoticeTime, string> = { no: 'no', 'at once': 'at once', daily: 'once a day' };

const bytesOf = (base64url: string): Uint8Array<ArrayBuffer> => {
  const text = atob(base64url.replaceAll('-', '+').replaceAll('_', '/'));
  return Uint8Array.from(text, (letter) => letter.charCodeAt(0));
};

/** What somebody is told of, by which ways and when, kind by kind. */
export function Choices({
  choices,
  onSet,
}: {
  choices: NoticeChoices;
  onSet: (kind: NoticeKind, part: Partial<NoticeChoice>) => void;
}) {
  return (
    <table className="w-full max-w-3xl max-sm:table-fixed">
      <thead>
        <tr className="text-left text-sm text-quiet">
          <th className="py-2 font-normal">Kind</th>
          <th className="font-normal max-sm:w-14">Inbox</th>
          <th className="font-normal max-sm:w-24">Mail</th>
          <th className="font-normal max-sm:w-24">Push</th>
        </tr>
      </thead>
      <tbody>
        {NOTICE_KINDS.map((kind) => {
          const choice = choices[kind];
          const words = NOTICE_WORDS[kind];
          return (
            <tr key={kind} className="border-t border-base-300">
              <th scope="row" className="py-1 pr-3 text-left font-normal">
                {words}
              </th>
              <td>
                {kind === 'announcement' ? (
                  <span className="text-sm text-quiet">always</span>
                ) : (
                  <input
                    type="checkbox"
                    className="checkbox checkbox-primary"
                    aria-label={`${words}: in the inbox`}
                    checked={choice.inbox}
                    onChange={(event) => onSet(kind, { inbox: event.target.checked })}
                  />
                )}
              </td>
              {(['mail', 'push'] as const).map((method) => (
                <td key={method} className="pr-2">
                  <select
                    className="select w-full min-w-0 max-sm:bg-none max-sm:px-1.5 max-sm:text-sm sm:min-w-24"
                    aria-label={`${words}: by ${method}`}
                    value={choice[method]}
                    onChange={(event) =>
                      onSet(kind, { [method]: TIMES.find((time) => time === event.target.value) ?? 'no' })
                    }
                  >
                    {TIMES.filter(
                      // The mail of an announcement is in its plan; here it is only whether it is in the digest too.
                      (time) => !(kind === 'announcement' && method === 'mail' && time === 'at once'),
                    ).map((time) => (
                      <option key={time} value={time}>
                        {kind === 'announcement' && method === 'mail' && time === 'no'
                          ? 'as it is sent'
                          : TIME_WORDS[time]}
                      </option>
                    ))}
                  </select>
                </td>
              ))}
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

/** Connects this browser to push messages. */
async function connect(pushKey: string): Promise<void> {
  if (!('PushManager' in window)) throw new Error('This browser takes no push messages.');
  if ((await Notification.requestPermission()) !== 'granted')
    throw new Error(
      'This browser does not let Clear Bell send push messages. Allow it in its settings, then try again.',
    );
  const worker = await navigator.serviceWorker.ready;
  const subscription = await worker.pushManager.subscribe({
    userVisibleOnly: true,
    applicationServerKey: bytesOf(pushKey),
  });
  const { endpoint = '', keys: { p256dh = '', auth = '' } = {} } = subscription.toJSON();
  const label = /\(([^;)]+)/.exec(navigator.userAgent)?.[1] ?? 'This device';
  await request('POST', '/api/me/devices', { label, endpoint, keys: { p256dh, auth } });
}

/** The devices that take push messages. */
export function Devices({
  devices,
  pushKey,
  practice,
  zone,
  onAct,
}: {
  devices: Device[];
  /** The public key by which push services know this organisation. */
  pushKey: string;
  /** Whether there is a stand-in push service to practise with. */
  practice: boolean;
  zone: string;
  /** Does something, says so, and has it read again. */
  onAct: (work: () => Promise<unknown>, words: string) => void;
}) {
  return (
    <>
      <h3 className="mt-6 mb-1 text-lg">Devices that take push messages</h3>
      <ul className="max-w-2xl">
        {devices.map((device) => (
          <li
            key={device.id}
            className="flex min-h-11 items-center justify-between gap-3 border-b border-base-300"
          >
            <span>
              {device.label}{' '}
              <span className="text-sm text-quiet">
                since {shortDate(device.madeMs, zone)}
                {device.lastMs === null ? '' : `, last told ${shortDate(device.lastMs, zone)}`}
              </span>
            </span>
            <button
              type="button"
              className="btn btn-ghost btn-sm"
              aria-label={`Take ${device.label} out`}
              onClick={() => onAct(() => request('DELETE', `/api/me/devices/${device.id}`), 'Taken out.')}
            >
              Take out
            </button>
          </li>
        ))}
        {devices.length === 0 ? <li className="text-quiet">None yet.</li> : null}
      </ul>
      <div className="mt-3 flex flex-wrap gap-3">
        <button
          type="button"
          className="btn btn-outline"
          onClick={() => onAct(() => connect(pushKey), 'This device takes push messages from now on.')}
        >
          Use this device
        </button>
        {practice ? (
          <button
            type="button"
            className="btn btn-ghost"

            onClick={() =>
              onAct(
                () => request('POST', '/api/me/devices/practice'),
                'A practice device takes push messages now.',
              )
            }
          >
            Connect a practice device
          </button>
        ) : null}
      </div>
    </>
  );
}
