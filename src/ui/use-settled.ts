"use client";

import { useEffect, useState } from "react";

/** A value as it was when it last stayed the same for a moment, such as while a person types. @param ms how long */
export function useSettled<T>(value: T, ms = 250): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), ms);
    return () => clearTimeout(timer);
  }, [value, ms]);
  return settled;
}
