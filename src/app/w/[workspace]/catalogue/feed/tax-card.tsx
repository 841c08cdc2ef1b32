"use client";

import { useRouter } from "next/navigation";
import { useState } from "react";
import { toast } from "sonner";
import type { TaxRule } from "@/core/catalogue/margins";
import { versionOf } from "@/core/kit/version-of";
import { Button } from "@/ui/button";
import { Checkbox, TextInput } from "@/ui/field";
import { Surface } from "@/ui/page";
import { apiSend, toastError, toastMeanwhile } from "../../../../_lib/api";
import { useApiPath, useRefresh, useWorkspace } from "../../../../_lib/workspace";

/** A tax rule as the settings that hold it. */
function asSettings({ rate, price, cost, fee }: TaxRule) {
  return { taxRate: rate, pricesWithTax: price, costsWithTax: cost, feesWithTax: fee };
}

/** Which amounts hold tax and how much, since a price with tax and a cost without make a wrong margin. */
export function TaxCard() {
  const { tax } = useWorkspace();
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const router = useRouter();
  const [rate, setRate] = useState(String(Number((100 * tax.rate).toFixed(4))));
  const [price, setPrice] = useState(tax.price);
  const [cost, setCost] = useState(tax.cost);
  const [fee, setFee] = useState(tax.fee);
  const percent = Number(rate.replace(",", ".").replace("%", ""));
  const isRate = rate.trim() !== "" && percent >= 0 && percent <= 90;
  // As it was when the card opened, whatever is read anew since.
  const [seen, setSeen] = useState(() => versionOf(asSettings(tax)));
  const save = async (since = `?since=${seen}`) => {
    const given = asSettings({ rate: percent / 100, price, cost, fee });
    await apiSend(apiPath(`settings${since}`), given, "PUT");
    setSeen(versionOf(given));
    toast.info("Margins and break-even returns are worked out anew.");
    router.refresh();
    await refresh();
  };
  return (
    <Surface title="Tax in amounts">
      <p className="text-sm text-soft">
        Margins are worked from amounts without tax. A tax column of the feed comes before this rate.
      </p>
      <div className="mt-2 flex flex-wrap items-center gap-x-4 gap-y-2 text-sm">
        <label className="flex items-center gap-2">
          Tax rate
          <TextInput
            className="w-16!"
            inputMode="decimal"
            value={rate}
            aria-invalid={!isRate}
            onChange={(event) => setRate(event.target.value)}
          />
          %
        </label>
        <Checkbox label="in prices" checked={price} onChange={(event) => setPrice(event.target.checked)} />
        <Checkbox label="in costs" checked={cost} onChange={(event) => setCost(event.target.checked)} />
        <Checkbox label="in fees" checked={fee} onChange={(event) => setFee(event.target.checked)} />
        <Button
          disabled={!isRate}
          onClick={() =>
            void save().catch((error: unknown) => toastMeanwhile(error, () => void save("").catch(toastError)))
          }
        >
          Keep
        </Button>
      </div>
      {!isRate && <p className="mt-1 text-sm text-ember">A rate from 0 to 90 %.</p>}
    </Surface>
  );
}
