import { Counter, Gauge, Histogram, Registry } from 'prom-client';

/** Figures of one process in the Prometheus format. */
export class EngineFigures {
  readonly registry = new Registry();
  readonly deliveries = new Counter({
    name: 'clear_bell_deliveries_total',
    help: 'Deliveries that went, by method and outcome',
    labelNames: ['method', 'outcome'],
    registers: [this.registry],
  });
  readonly lateness = new Histogram({
    name: 'clear_bell_bucket_lateness_seconds',
    help: 'From the due instant of a bucket to the moment it was expanded',
    buckets: [0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 15, 60, 300],
    registers: [this.registry],
  });
  readonly damaged = new Gauge({
    name: 'clear_bell_database_damaged',
    help: 'Database servers that said in the last week that they are damaged',
    registers: [this.registry],
  });
  readonly skew = new Gauge({
    name: 'clear_bell_clock_skew_seconds',
    help: "How far this process's clock is ahead of the database's",
    registers: [this.registry],
  });
}
