/**
 * SQL for an instant as whole milliseconds since 1970. Not UNIX_TIMESTAMP, which in MariaDB 10.11 ends in 2038.
 *
 * @param expression a column or SQL expression of type DATETIME(3), in UTC
 */
export const ms = (expression: string): string =>
  `TIMESTAMPDIFF(MICROSECOND, '1970-01-01', ${expression}) DIV 1000`;
