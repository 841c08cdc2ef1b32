"use client";

import { useId, useState } from "react";
import type { AccountView } from "@/server/planogram/workbench";
import { Field, TextInput } from "@/ui/field";
import { useApi } from "../../_lib/api";
import { useApiPath, useDays } from "../../_lib/workspace";
import { EditForm, type FormProps } from "./edit-form";

/** Another name for one campaign or ad group. */
export function RenameForm({ on, ...rest }: FormProps) {
  const [name, setName] = useState(on.label);
  const isFit = name.trim() !== "";
  return (
    <EditForm edit={isFit ? { action: "rename", keys: on.keys, name: name.trim() } : null} {...rest}>
      <Field label="Name" hint="Its history stays with it.">
        {(props) => <TextInput {...props} autoFocus value={name} onChange={(event) => setName(event.target.value)} />}
      </Field>
    </EditForm>
  );
}

/** What campaigns are sorted under: one that is there, a new one, or none. */
export function FolderForm({ on, ...rest }: FormProps) {
  const apiPath = useApiPath();
  const [days] = useDays();
  const known = useId();
  const [folder, setFolder] = useState("");
  const account = useApi<AccountView>(apiPath(`account?days=${days}`));
  const folders = [...new Set((account.data?.lines ?? []).flatMap((line) => line.folder ?? []))].sort();
  return (
    <EditForm edit={{ action: "folder", keys: on.keys, folder: folder.trim() || null }} {...rest}>
      <Field label="Folder" hint="Empty takes them out. Folders only sort; money is shared by pools.">
        {(props) => (
          <TextInput
            {...props}
            autoFocus
            list={known}
            maxLength={60}
            value={folder}
            onChange={(event) => setFolder(event.target.value)}
          />
        )}
      </Field>
      <datalist id={known}>
        {folders.map((name) => (
          <option key={name} value={name} />
        ))}
      </datalist>
    </EditForm>
  );
}
