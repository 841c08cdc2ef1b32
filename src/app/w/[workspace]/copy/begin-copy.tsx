"use client";

import { useState } from "react";
import { LANGUAGE_NAME, type Language } from "@/core/copy/languages";
import { Button } from "@/ui/button";
import { ChoiceSelect } from "@/ui/field";

/** In which language to begin. */
export function BeginCopy({
  onBegin,
  look = "ember",
}: {
  onBegin: (language: Language) => void;
  look?: "ember" | "plain";
}) {
  const [language, setLanguage] = useState<Language>("en");
  return (
    <span className="flex items-center gap-2">
      <ChoiceSelect
        aria-label="Language of a new plan"
        className="w-28!"
        choices={LANGUAGE_NAME}
        value={language}
        onChange={setLanguage}
      />
      <Button look={look} onClick={() => onBegin(language)}>
        New copy plan
      </Button>
    </span>
  );
}
