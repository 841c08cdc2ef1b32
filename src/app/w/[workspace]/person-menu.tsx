"use client";

import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { UserRound } from "lucide-react";
import Link from "next/link";
import { apiDelete, leaveFor, toastError } from "../../_lib/api";
import { useSession } from "../../_lib/session";
import { useWorkspace } from "../../_lib/workspace";

const ITEM = "block w-full rounded px-3 py-1.5 text-left data-focus:bg-raised";

/** Who sits there, and the ways to what is theirs: the log, the people, their account, out. */
export function PersonMenu() {
  const { slug } = useWorkspace();
  const { data: session } = useSession(slug);
  const signOut = () =>
    apiDelete("session")
      .then(() => leaveFor("/sign-in"))
      .catch(toastError);
  return (
    <Menu>
      <MenuButton
        aria-label={session?.isOn ? `${session.who ?? ""}, ${session.role ?? ""}` : "Log and people"}
        className="flex h-8 items-center gap-1.5 rounded-md border border-line bg-surface px-2 text-sm text-soft hover:bg-raised"
      >
        <UserRound aria-hidden className="size-4" />
        {session?.isOn && (
          <span className="max-w-32 truncate">
            {session.who} · {session.role}
          </span>
        )}
      </MenuButton>
      <MenuItems
        anchor="bottom end"
        className="z-50 mt-1 w-56 rounded-md border border-line bg-surface p-1 text-sm text-ink shadow-xl outline-none"
      >
        <MenuItem>
          <Link className={ITEM} href={`/w/${slug}/log`}>
            Change log
          </Link>
        </MenuItem>
        {session?.isOn ? (
          <>
            {session.role === "owner" && (
              <MenuItem>
                <Link className={ITEM} href={`/w/${slug}/people`}>
                  People and tokens
                </Link>
              </MenuItem>
            )}
            <MenuItem>
              <Link className={ITEM} href="/me">
                My account
              </Link>
            </MenuItem>
            <MenuItem>
              <button type="button" className={ITEM} onClick={() => void signOut()}>
                Sign out
              </button>
            </MenuItem>
          </>
        ) : (
          <p className="px-3 py-1.5 text-xs text-soft">
            On this machine nobody signs in. Others can once the server listens beyond it; the README says how.
          </p>
        )}
      </MenuItems>
    </Menu>
  );
}
