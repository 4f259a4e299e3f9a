import { wrap, type Remote } from 'comlink';
import { useEffect, useRef, useState } from 'react';
import type { Column } from '../../core/imports/columns.ts';
import { ROWS_AT_ONCE } from '../../core/imports/import.ts';
import type { DateOrder } from '../../core/imports/record.ts';
import { request } from '../../ui/api.ts';
import type { ListRead, ListReader } from './list.worker.ts';

export interface ChosenList {
  fileName: string;
  bytes: ArrayBuffer;
  read: ListRead;
}

/** A letter is at most three bytes, and a request a megabyte. */
const LETTERS_AT_ONCE = 300_000;

/** A list in a worker of this page: it is read, its columns matched, and its rows sent to the server. */
export function useList(): {
  list: ChosenList | null;
  reading: boolean;
  /** How much of it was sent, 0 to 1; null while nothing is. */
  sent: number | null;
  choose: (file: File) => Promise<string | null>;
  readAgain: (named: boolean) => Promise<string | null>;
  send: (columns: Column[], dateOrder: DateOrder) => Promise<number>;
} {
  const [list, setList] = useState<ChosenList | null>(null);
  const [reading, setReading] = useState(false);
  const [sent, setSent] = useState<number | null>(null);
  const worker = useRef<{ worker: Worker; reader: Remote<ListReader> }>(undefined);
  useEffect(() => () => worker.current?.worker.terminate(), []);

  const readerOf = (): Remote<ListReader> => {
    if (!worker.current) {
      const begun = new Worker(new URL('./list.worker.ts', import.meta.url), { type: 'module' });
      worker.current = { worker: begun, reader: wrap<ListReader>(begun) };
    }
    return worker.current.reader;
  };
  /** Gives what is wrong with it, or null. */
  const read = async (fileName: string, bytes: ArrayBuffer, named?: boolean): Promise<string | null> => {
    setReading(true);
    try {
      const found = await readerOf().read(bytes, named);
      if ('problem' in found) {
        setList(null);
        return found.problem;
      }
      setList({ fileName, bytes, read: found });
      return null;
    } finally {
      setReading(false);
    }
  };
  return {
    list,
    reading,
    sent,
    choose: async (file) => read(file.name, await file.arrayBuffer()),
    readAgain: async (named) => (list ? read(list.fileName, list.bytes, named) : null),
    async send(columns, dateOrder) {
      if (!list) throw new Error('There is no list');
      setSent(0);
      try {
        const headings = list.read.headings.map(
          (heading, at) => [heading, columns[at] ?? 'nothing'] as const,
        );
        const { id } = await request('POST', '/api/imports', {
          fileName: list.fileName.slice(-200),
          columns: Object.fromEntries(
            headings.filter(([heading]) => heading !== '' && heading.length <= 200),
          ),
          dateOrder,
        });
        for (let from = 0; from < list.read.count;) {
          const rows = await readerOf().records(columns, from, ROWS_AT_ONCE, LETTERS_AT_ONCE);
          await request('POST', `/api/imports/${id}/rows`, { rows });
          from += rows.length;
          setSent(Math.min(1, from / list.read.count));
        }
        await request('POST', `/api/imports/${id}/compare`);
        return id;
      } catch (error) {
        setSent(null);
        throw error;
      }
    },
  };
}
