const NEVER = "TIMESTAMP'9999-01-01 00:00:00.000'";

/** SQL for the earliest of what some scalar selects give, which may be none each; NULL where all are. */
export const earliest = (...selects: readonly string[]): string =>
  `NULLIF(LEAST(${selects.map((select) => `COALESCE((${select}), ${NEVER})`).join(', ')}), ${NEVER})`;

/**
 * SQL for an instant as whole milliseconds since 1970. Not UNIX_TIMESTAMP, which in MariaDB 10.11 ends in 2038.
 *
 * @param expression a column or SQL expression of type DATETIME(3), in UTC
 */
export const ms = (expression: string): string =>
  `TIMESTAMPDIFF(MICROSECOND, '1970-01-01', ${expression}) DIV 1000`;
