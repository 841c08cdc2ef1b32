import Link from "next/link";

export default function NotFound() {
  return (
    <main className="mx-auto max-w-md p-12 text-center">
      <h1 className="font-display text-2xl font-semibold">Nothing stands here</h1>
      <p className="mt-2 text-soft">The address names no workspace or page there is. Nothing is lost.</p>
      <Link href="/?all=1" className="mt-4 inline-block text-petrol underline">
        See all workspaces
      </Link>
    </main>
  );
}
