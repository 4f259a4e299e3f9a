/** Something an operator can mend: printed as one line, without a stack. */
export class Stop extends Error {}
