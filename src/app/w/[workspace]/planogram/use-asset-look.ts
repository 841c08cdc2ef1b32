"use client";

import { useQuery } from "@tanstack/react-query";
import type { AssetSet } from "@/core/account/records/assets";
import type { Planogram } from "@/core/planogram/planogram";
import type { AssetLook } from "@/server/assets/asset-groups";
import { useSettled } from "@/ui/use-settled";
import { apiSend, type ApiError } from "../../../_lib/api";
import { useApiPath } from "../../../_lib/workspace";

/** Whose items assets are looked at over: a group of the account, or what a planogram would take. */
export type AssetScope = { adGroup: string } | { planogram: Planogram };

/** How assets stand over the items of a group while they are being written. */
export function useAssetLook(assets: AssetSet, scope: AssetScope, find: string) {
  const apiPath = useApiPath();
  const asked = useSettled(JSON.stringify({ assets, find, ...scope }), 250);
  return useQuery<AssetLook, ApiError>({
    queryKey: ["api", "asset-look", apiPath(""), asked],
    queryFn: ({ signal }) => apiSend<AssetLook>(apiPath("asset-groups/look"), JSON.parse(asked), "POST", signal),
    placeholderData: (before) => before,
    retry: false,
  });
}
