import { Check, Columns3 } from 'lucide-react';
import { Button, Menu, MenuItem, MenuTrigger, Popover } from 'react-aria-components';

/** Which columns a list shows, as a menu of several choices. */
export function ColumnsMenu({
  columns,
  shown,
  onChange,
}: {
  columns: readonly { id: string; words: string }[];
  shown: ReadonlySet<string>;
  onChange: (shown: ReadonlySet<string>) => void;
}) {
  return (
    <MenuTrigger>
      <Button className="btn btn-ghost btn-sm">
        <Columns3 size={18} aria-hidden /> Columns
      </Button>
      <Popover
        placement="bottom end"
        className="floating z-50 max-h-96 w-56 overflow-y-auto border border-base-300 bg-base-100"
      >
        <Menu
          aria-label="Columns"
          selectionMode="multiple"
          selectedKeys={shown}
          onSelectionChange={(keys) =>
            onChange(keys === 'all' ? new Set(columns.map(({ id }) => id)) : new Set([...keys].map(String)))
          }
          className="outline-none"
        >
          {columns.map(({ id, words }) => (
            <MenuItem
              key={id}
              id={id}
              textValue={words}
              className="flex min-h-11 items-center gap-2 px-4 outline-none data-[focused]:bg-base-200"
            >
              {({ isSelected }) => (
                <>
                  <Check size={18} aria-hidden className={isSelected ? '' : 'invisible'} />
                  {words}
                </>
              )}
            </MenuItem>
          ))}
        </Menu>
      </Popover>
    </MenuTrigger>
  );
}
