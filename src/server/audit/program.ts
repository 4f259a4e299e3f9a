import { AsyncLocalStorage } from 'node:async_hooks';

const atWork = new AsyncLocalStorage<string>();

/** Does something for a program: what is recorded of it meanwhile says by which. */
export const asProgram = <T>(name: string, work: () => Promise<T>): Promise<T> => atWork.run(name, work);

/** The program for which something is done at the moment; undefined where a person does it by hand. */
export const programAtWork = (): string | undefined => atWork.getStore();
