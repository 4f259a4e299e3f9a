import { Ellipsis } from 'lucide-react';
import { Button, Menu, MenuItem, MenuTrigger, Popover } from 'react-aria-components';

/** What is done seldom with something, as a menu behind one button. */
export function MoreMenu<Act extends string>({
  label,
  acts,
  onAct,
}: {
  /** Of what the menu is. */
  label: string;
  acts: readonly { act: Act; words: string }[];
  onAct: (act: Act) => void;
}) {
  return (
    <MenuTrigger>
      <Button className="btn btn-ghost">
        <Ellipsis size={18} aria-hidden /> More
      </Button>
      <Popover
        placement="bottom end"
        className="floating z-50 max-h-96 w-64 overflow-y-auto border border-base-300 bg-base-100"
      >
        <Menu
          aria-label={label}
          onAction={(key) => {
            const found = acts.find(({ act }) => act === key);
            if (found) onAct(found.act);
          }}
          className="outline-none"
        >
          {acts.map(({ act, words }) => (
            <MenuItem
              key={act}
              id={act}
              textValue={words}
              className="flex min-h-11 cursor-pointer items-center px-4 outline-none data-[focused]:bg-base-200"
            >
              {words}
            </MenuItem>
          ))}
        </Menu>
      </Popover>
    </MenuTrigger>
  );
}
