import { clear, createStore, del, get, set, type UseStore } from "idb-keyval";

/**
 * Pictures that wait on this device until the program has them: too large for where the entries themselves wait. A
 * browser may forbid this store, or be full: then only the page holds them.
 */
const inPage = new Map<string, Blob>();
let opened: UseStore | null = null;
const store = () => {
  opened ??= createStore("spare-margin", "pictures");
  return opened;
};

/** Keep a picture under its photograph's id. Whether the device keeps it: else only this page does. */
export async function keepPicture(id: string, picture: Blob): Promise<boolean> {
  inPage.set(id, picture);
  try {
    await set(id, picture, store());
    return true;
  } catch {
    return false;
  }
}

/** The picture that was kept under an id; undefined where there is none. */
export async function pictureOf(id: string): Promise<Blob | undefined> {
  const here = inPage.get(id);
  if (here) return here;
  try {
    return await get<Blob>(id, store());
  } catch {
    return undefined;
  }
}

/** Let a picture go. */
export async function dropPicture(id: string): Promise<void> {
  inPage.delete(id);
  try {
    await del(id, store());
  } catch {
    // What cannot be opened holds nothing.
  }
}

/** Let all of them go. */
export async function dropPictures(): Promise<void> {
  inPage.clear();
  try {
    await clear(store());
  } catch {
    // What cannot be opened holds nothing.
  }
}
