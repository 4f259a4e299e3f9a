import type { ReactNode } from 'react';
import { Tab, TabList, TabPanel, Tabs as Whole } from 'react-aria-components';

/**
 * Ways to look at one thing, of which one shows (tabs, WAI-ARIA authoring practices): the arrow keys go from one to the
 * next.
 *
 * @param children what shows of the chosen one
 * @param besides what stands between the tabs and that, whichever is chosen
 */
export function Tabs<T extends string>({
  label,
  tabs,
  value,
  onChange,
  besides,
  children,
}: {
  label: string;
  tabs: readonly T[];
  value: T;
  onChange: (value: T) => void;
  besides?: ReactNode;
  children: ReactNode;
}) {
  return (
    <Whole
      selectedKey={value}
      onSelectionChange={(key) => {
        const found = tabs.find((each) => each === key);
        if (found !== undefined) onChange(found);
      }}
    >
      <TabList aria-label={label} className="flex flex-wrap border-b border-base-300">
        {tabs.map((each) => (
          <Tab
            key={each}
            id={each}
            className="flex min-h-11 cursor-pointer items-center px-2.5 text-sm hover:bg-base-200 data-[selected]:border-b-2 data-[selected]:border-primary data-[selected]:font-semibold"
          >
            {/* In a box of its own, for a flex container has no first letter. */}
            <span className="block first-letter:uppercase">{each}</span>
          </Tab>
        ))}
      </TabList>
      {besides}
      <TabPanel id={value}>{children}</TabPanel>
    </Whole>
  );
}
