import {
  parseDate,
  parseDateTime,
  parseTime,
  toCalendarDate,
  toCalendarDateTime,
  type CalendarDate,
  type CalendarDateTime,
} from '@internationalized/date';
import { CalendarDays, ChevronLeft, ChevronRight } from 'lucide-react';
import {
  Button,
  Calendar,
  CalendarCell,
  CalendarGrid,
  DateInput,
  DatePicker,
  DateSegment,
  Dialog,
  Group,
  Heading,
  Label,
  Popover,
  TimeField as AriaTimeField,
} from 'react-aria-components';

/** What a text says as a date or a time, or null where it says none. */
function read<T>(parse: (text: string) => T, text: string): T | null {
  try {
    return text === '' ? null : parse(text);
  } catch {
    return null;
  }
}

const Segments = () => (
  <DateInput className="flex grow font-mono tabular-nums">
    {(segment) => (
      <DateSegment
        segment={segment}
        className="inline-block min-h-6 min-w-6 rounded-sm px-0.5 text-center outline-none data-[focused]:bg-primary data-[focused]:text-primary-content data-[placeholder]:text-quiet data-[type=literal]:min-w-0 data-[type=literal]:px-0"
      />
    )}
  </DateInput>
);

const BOX = 'input flex w-full items-center gap-1 pr-1';

const Month = () => (
  <Popover className="floating z-50 border border-base-300 bg-base-100 p-3">
    <Dialog className="outline-none">
      <Calendar>
        <header className="mb-2 flex items-center justify-between">
          <Button slot="previous" className="btn btn-ghost btn-sm btn-square">
            <ChevronLeft size={18} aria-hidden />
          </Button>
          <Heading className="font-semibold" />
          <Button slot="next" className="btn btn-ghost btn-sm btn-square">
            <ChevronRight size={18} aria-hidden />
          </Button>
        </header>
        <CalendarGrid weekdayStyle="short" className="border-collapse">
          {(date) => (
            <CalendarCell
              date={date}
              className="grid size-10 cursor-pointer place-items-center rounded-sm outline-none data-[focus-visible]:ring-2 data-[focus-visible]:ring-primary data-[hovered]:bg-base-200 data-[outside-month]:invisible data-[selected]:bg-primary data-[selected]:text-primary-content data-[unavailable]:line-through"
            />
          )}
        </CalendarGrid>
      </Calendar>
    </Dialog>
  </Popover>
);

export interface DateFieldProps {
  label: string;
  /** In the form of ISO 8601, of a clock on the wall; empty is none. */
  value: string;
  /** Told of each whole value, and of an empty one where it is taken out. */
  onChange: (value: string) => void;
  className?: string;
  isDisabled?: boolean;
}

function Picker({
  label,
  value,
  granularity,
  onChange,
  className = '',
  isDisabled = false,
}: {
  label: string;
  value: CalendarDate | CalendarDateTime | null;
  granularity: 'day' | 'minute';
  onChange: (value: string) => void;
  className?: string | undefined;
  isDisabled?: boolean | undefined;
}) {
  return (
    <DatePicker
      value={value}
      granularity={granularity}
      shouldForceLeadingZeros
      isDisabled={isDisabled}
      onChange={(next) => onChange(next === null ? '' : next.toString().slice(0, 16))}
      className={`flex flex-col gap-1 ${className}`}
    >
      <Label>{label}</Label>
      <Group className={BOX}>
        <Segments />
        <Button className="btn btn-ghost btn-sm btn-square">
          <CalendarDays size={18} aria-hidden />
        </Button>
      </Group>
      <Month />
    </DatePicker>
  );
}

/** A date (YYYY-MM-DD), in the order the reader's language writes it, typed or picked from a month. */
export const DateField = ({ value, onChange, ...rest }: DateFieldProps) => (
  <Picker
    {...rest}
    granularity="day"
    value={read((text) => toCalendarDate(parseDate(text)), value)}
    onChange={onChange}
  />
);

/** A date and time of day (YYYY-MM-DDTHH:MM) of a clock on the wall. */
export const DateTimeField = ({ value, onChange, ...rest }: DateFieldProps) => (
  <Picker
    {...rest}
    granularity="minute"
    value={read((text) => toCalendarDateTime(parseDateTime(text)), value)}
    onChange={onChange}
  />
);

/** A time of day (HH:MM), by the 12 or 24 hours of the reader's language. */
export const TimeField = ({ label, value, onChange, className = '', isDisabled = false }: DateFieldProps) => (
  <AriaTimeField
    value={read(parseTime, value)}
    shouldForceLeadingZeros
    isDisabled={isDisabled}
    onChange={(time) => onChange(time === null ? '' : time.toString().slice(0, 5))}
    className={`flex flex-col gap-1 ${className}`}
  >
    <Label>{label}</Label>
    <div className={BOX}>
      <Segments />
    </div>
  </AriaTimeField>
);
