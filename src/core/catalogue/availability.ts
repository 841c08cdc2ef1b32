import { ownRecord } from "../kit/own-record";

export const AVAILABILITIES = ["in stock", "out of stock", "preorder", "backorder"] as const;
export type Availability = (typeof AVAILABILITIES)[number];

/** What stands in place of an availability whose word nobody has explained yet: the item gets no ads. */
export const NOT_KNOWN = "not known";

/** Usual words of shops in many languages, folded by {@link foldWord}, by what they mean. */
const WORDS: Record<Availability, string> = {
  "in stock": `instock available yes true y 1 limitedavailability instoreonly onlineonly instockonline lowstock limitedstock
    fewleft onhand availablenow readytoship buyable
    lieferbar auflager verfügbar sofortlieferbar sofortverfügbar vorrätig anlager ja wenigeauflager
    disponible enstock oui disponibles endisponibilité
    disponibleenstock sí si enexistencia enexistencias hayexistencias
    disponibile disponibili instocco inmagazzino disponibilitàimmediata
    opvoorraad leverbaar beschikbaar directleverbaar voorradig
    dostępny dostępna dostępne wmagazynie nastanie tak dostępnyodręki
    disponível emestoque emstock sim
    skladem nasklade ano dostupné dostupný kdispozici áno
    ilager finnsilager tillgänglig ja pålager tilgængelig tilgjengelig
    varastossa saatavilla kyllä
    raktáron készleten elérhető igen kapható
    înstoc instoc disponibil da
    налични наличен налично вналичност да внаявності вналичии естьвналичии є есть
    διαθέσιμο διαθέσιμα σεαπόθεμα ναι
    naskladištu dostupno nazalogi navoljo
    stokta stoktavar mevcut var evet
    laos saadaval noliktavā pieejams yra yrasandėlyje
    在庫あり 有货 有貨 現貨 现货 재고있음 있음 มีสินค้า متوفر متاح במלאי موجود tersedia cònhàng`,
  "out of stock": `outofstock soldout unavailable no false n 0 discontinued notavailable notinstock nostock
    endoflife obsolete temporarilyunavailable currentlyunavailable temporarilyoutofstock nolongeravailable notbuyable
    ausverkauft nichtlieferbar nein nichtverfügbar nichtauflager nichtvorrätig vergriffen momentannichtverfügbar
    zurzeitnichtverfügbar derzeitnichtverfügbar derzeitnichtlieferbar zurzeitnichtlieferbar nichtmehrlieferbar
    nichtmehrverfügbar ausgelaufen
    épuisé épuisée rupture rupturedestock enrupture enrupturedestock indisponible nondisponible non horsstock plusdisponible
    agotado agotada sinstock sinexistencias nodisponible fueradestock
    esaurito esaurita nondisponibile nondisponibili terminato fuoristock
    uitverkocht nietopvoorraad nietleverbaar nietbeschikbaar nee
    niedostępny niedostępna niedostępne brak brakwmagazynie wyprzedany wyprzedane nie chwilowoniedostępny
    esgotado indisponível semestoque semstock não
    vyprodáno vyprodané vyprodaný vypredané vypredaný neníkdispozici nenískladem nedostupné nedostupný nienajesklade nieje ne
    slutsåld slut slutilager ejilager intelager nej udsolgt ikkepålager utsolgt ikketilgjengelig nei
    loppu loppuunmyyty eivarastossa loppunut ei
    elfogyott nincsraktáron nincskészleten nemelérhető nemkapható nem kifutott
    stocepuizat epuizat indisponibil nudisponibil nu lipsăstoc
    изчерпан изчерпано неналичен неналично няма не немаєвнаявності немавнаявності неевналичност нетвналичии закончился распродано відсутній нет
    εξαντλήθηκε εξαντλημένο μηδιαθέσιμο μηδιαθέσιμα όχι
    rasprodano nedostupno nemanazalihi ninazalogi nivoljo razprodano
    tükendi stoktayok yok stokdışı hayır mevcutdeğil
    läbimüüdud otsas izpārdots navpieejams išparduota nėra
    在庫なし 在庫切れ 売り切れ 品切れ 完売 缺货 缺貨 售罄 无货 無貨 품절 재고없음 สินค้าหมด หมด غيرمتوفر نفد נגמר אזלבמלאי אזלמהמלאי
    ناموجود habis stokhabis hếthàng`,
  preorder: `preorder presale preordering availableforpreorder vorbestellbar vorbestellung précommande enprécommande reserva
    preventa preordine preordinabile prenotabile vooruitbestellen tebestellen przedsprzedaż prévenda
    předobjednávka predobjednávka förbeställ forudbestilling forhåndsbestilling ennakkotilaus előrendelhető előrendelés
    precomandă προπαραγγελία önsipariş 予約 予約受付中 预订 預購 예약판매`,
  backorder: `backorder onbackorder backordered availableforbackorder madetoorder onorder specialorder nachbestellt aufbestellung
    aufanfragebestellbar bestellbar surcommande àlacommande bajopedido porencargo suordinazione ordinabile opbestelling
    nabestelling nazamówienie sobencomenda naobjednávku beställningsvara bestillingsvare tilaustuote rendelésre
    rendelhető lacomandă κατόπινπαραγγελίας siparişüzerine 取り寄せ お取り寄せ`,
};

const MEANING: Record<string, Availability> = ownRecord(
  Object.fromEntries(
    AVAILABILITIES.flatMap((meaning) => WORDS[meaning].split(/\s+/).map((word) => [foldWord(word), meaning] as const)),
  ),
);

/** What an availability text means, or null when it isn't understood. A schema.org address counts by its last part, a number as pieces on hand. */
export function readAvailability(text: string): Availability | null {
  if (AVAILABILITIES.includes(text as Availability)) return text as Availability;
  const plain = text.normalize("NFKC");
  const last = plain.includes("/") ? plain.slice(plain.lastIndexOf("/") + 1) : plain;
  const pieces = /^([-−–]?)\s*(\d{1,9})$/.exec(last.trim());
  if (pieces) return pieces[1] === "" && Number(pieces[2]) > 0 ? "in stock" : "out of stock";
  const known = MEANING[foldWord(last)];
  if (known) return known;
  // "3 in stock", "in stock (12)": how many stands beside the word, and none is none.
  const counted = /^(\d{1,9})\s*(\P{N}+)$|^(\P{N}+?)\s*(\d{1,9})\P{N}?$/u.exec(last.trim());
  if (!counted) return null;
  const meaning = MEANING[foldWord(counted[2] ?? counted[3]!)] ?? null;
  return meaning === "in stock" && Number(counted[1] ?? counted[4]) === 0 ? "out of stock" : meaning;
}

/** A word without case, spaces and marks, by which availability words are known. */
export function foldWord(text: string): string {
  return text
    .normalize("NFKC")
    .toLowerCase()
    .replace(/[^\p{L}\p{M}\p{N}]/gu, "");
}
