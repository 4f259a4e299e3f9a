import type { Problem as FieldProblem } from '../core/content/announcement.ts';

const TITLES: Record<number, string> = {
  400: 'The request could not be read',
  401: 'Sign in first',
  403: 'Not allowed',
  404: 'Not found',
  405: 'Not done at this address',
  409: 'Changed meanwhile',
  412: 'Changed meanwhile',
  413: 'Too large',
  415: 'Not JSON',
  422: 'Something needs correcting',
  428: 'Say over which revision',
  429: 'Too many attempts',
};

/** What went wrong, for the one who asked: becomes problem details (RFC 9457) at an endpoint and words on a page. */
export class Problem extends Error {
  readonly status: number;
  readonly title: string;
  readonly errors: FieldProblem[];
  /** Further members of the problem document. */
  readonly more: Record<string, unknown>;

  constructor(
    status: number,
    detail: string,
    options: { errors?: FieldProblem[]; more?: Record<string, unknown> } = {},
  ) {
    super(detail);
    this.status = status;
    this.title = TITLES[status] ?? 'Something went wrong';
    this.errors = options.errors ?? [];
    this.more = options.more ?? {};
  }
}

/** What a service gives, or nothing where it says that there is no such thing. Any other error stays one. */
export async function orNone<T>(work: Promise<T>): Promise<T | undefined> {
  try {
    return await work;
  } catch (error) {
    if (error instanceof Problem && error.status === 404) return undefined;
    throw error;
  }
}

export const notFound = (what: string): Problem =>
  new Problem(404, `There is no such ${what}, or it is not yours to see.`);
