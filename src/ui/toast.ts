import type { toast as Toast } from 'sonner';

let ready: Promise<typeof Toast> | undefined;

/** Fetches what shows toasts, and the place where they stand, when the first one is shown. */
async function begin(): Promise<typeof Toast> {
  const [{ toast, Toaster }, { createRoot }, { createElement }] = await Promise.all([
    import('sonner'),
    import('react-dom/client'),
    import('react'),
  ]);
  const place = document.createElement('div');
  document.body.append(place);
  createRoot(place).render(
    createElement(Toaster, {
      position: 'bottom-center',
      // Above the places of a phone, which stand at its foot.
      mobileOffset: { bottom: 72 },
      containerAriaLabel: 'What was done',
      toastOptions: {
        unstyled: true,
        classNames: {
          toast:
            'floating flex w-full items-center gap-4 border-l-4 border-success bg-base-100 px-4 py-3 text-base-content',
          title: 'font-sans',
          content: 'grow',
          actionButton: 'btn btn-outline btn-sm',
        },
      },
    }),
  );
  return toast;
}

const SHOWN_MS = 6_000;
/** With something to take back there is time to read it and to reach for the button. */
const WITH_UNDO_MS = 12_000;

/**
 * Says that something was done, and offers to undo it where that can be. The same words are shown once.
 *
 * @param undo does the opposite; what it says then, or throws, is shown likewise
 */
export async function done(words: string, undo?: () => Promise<unknown>): Promise<void> {
  ready ??= begin();
  const toast = await ready.catch(() => undefined);
  toast?.(words, {
    id: words,
    duration: undo ? WITH_UNDO_MS : SHOWN_MS,
    ...(undo
      ? {
          action: {
            label: 'Undo',
            onClick: () => {
              undo().catch((error: unknown) => {
                toast(error instanceof Error ? error.message : 'It could not be undone.', {
                  className: 'border-error',
                });
              });
            },
          },
        }
      : {}),
  });
}
