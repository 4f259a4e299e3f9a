import type { RefObject } from 'react';
import { Menu, MenuItem, Popover } from 'react-aria-components';

/** Places to go to, as a menu. */
export function PlacesMenu({
  trigger,
  places,
  onClose,
}: {
  trigger: RefObject<HTMLButtonElement | null>;
  places: readonly (readonly string[])[];
  onClose: () => void;
}) {
  return (
    <Popover
      isOpen
      triggerRef={trigger}
      placement="top end"
      onOpenChange={(open) => {
        if (!open) onClose();
      }}
      className="floating z-50 w-48 border border-base-300 bg-base-100"
    >
      {/* A menu that was opened by a key or a press has the focus, as the pattern of menus asks. */}
      {/* eslint-disable-next-line jsx-a11y/no-autofocus */}
      <Menu aria-label="More places" autoFocus="first" onClose={onClose} className="outline-none">
        {places.map(([path = '', word = '']) => (
          <MenuItem
            key={path}
            href={path}
            className="flex min-h-11 items-center px-4 outline-none data-[focused]:bg-base-200"
          >
            {word}
          </MenuItem>
        ))}
      </Menu>
    </Popover>
  );
}
