import { Dialog, DialogPanel, DialogTitle } from "@headlessui/react";
import type { ReactNode } from "react";

const WIDTHS = { md: "max-w-md", xl: "max-w-xl", "2xl": "max-w-2xl", "3xl": "max-w-3xl", "4xl": "max-w-4xl" };

interface Props {
  open?: boolean;
  close: () => void;
  title: ReactNode; //: where there is none, what is inside says it by a `DialogTitle`
  width?: keyof typeof WIDTHS;
  far?: boolean; //: read from two metres away
  children: ReactNode;
}

/** What lies over a page until it is answered or left: Escape or a touch beside it closes it. */
export function Window({ open = true, close, title, width = "2xl", far = false, children }: Props) {
  return (
    <Dialog open={open} onClose={close} className="relative z-30">
      <div className="fixed inset-0 bg-black/30" aria-hidden="true" />
      <div className="fixed inset-0 grid place-items-center p-4">
        <DialogPanel className={`max-h-full w-full ${WIDTHS[width]} overflow-auto rounded border border-line bg-raised p-5`}>
          {title && <DialogTitle className={`wide-title ${far ? "text-xl" : "text-lg"}`}>{title}</DialogTitle>}
          {children}
        </DialogPanel>
      </div>
    </Dialog>
  );
}
