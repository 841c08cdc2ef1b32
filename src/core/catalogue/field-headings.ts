import type { FieldKey } from "./fields";

/**
 * Headings that usually carry a field, in the languages in which feeds are written, folded by `foldHeading`, the likeliest
 * first. Words of one language stand together; a heading that says the same in several stands once.
 */
export const HEADINGS: Record<FieldKey, readonly string[]> = {
  id: words(`
    id itemid productid sku offerid articlenumber artnr itemnumber productnumber artikelnummer artikelnr référence
    referencia артикул номер κωδικός κωδικόςπροϊόντος cikkszám termékkód termékazonosító indeks symbol
    numerkatalogowy kodproduktu kód kódproduktu číslozboží tuotenumero tuotekoodi varenummer varenr produktnummer
    artnummer codicearticolo codiceprodotto codice codigo código códigoproduto refproduto codart codprodus cod
    šifra šifraartikla ürünkodu stokkodu 商品番号 商品コード 品番 商品id 商品编号 商品編號 货号 상품코드 상품번호 رمزالمنتج מקט`),
  title: words(`
    title name productname producttitle itemname articlename bezeichnung produktname artikelname titel nom nombre
    naam назва название наименование τίτλος όνομα ονομασία megnevezés termék terméknév név nazwa nazwaproduktu
    název názevproduktu názov nimi tuotenimi tuote produktnamn namn benämning varenavn produktnavn navn nome
    nomeprodotto titolo título nomedoproduto denumire nume naziv ürünadı ürün ad 商品名 品名 商品名称 商品名稱 产品名称 标题 상품명 제품명
    اسمالمنتج שם שםמוצר`),
  price: words(`
    price regularprice pricecents priceincents pricegross grossprice pricewithtax priceincltax priceinclvat
    bruttopreis cenabrutto currentprice unitprice priceamount preis prix precio prijs prezzo saleprice cena
    vkpreis verkaufspreis sellingprice retailprice listprice grossamount brutto brutár bruttóár ár eladásiár
    fogyasztóiár τιμή τιμήμεφπα цена ціна hinta pris försäljningspris salgspris utpris preço preçovenda
    prezzovendita preț pret prețvânzare cijena prodajnacijena fiyat satışfiyatı kaina hind 価格 販売価格 税込価格 値段 价格 價格
    售价 售價 가격 판매가 السعر מחיר pricenet netprice cenanetto nettópris nettopris nettopreis`),
  link: words(`
    link url producturl deeplink landingpage href produktlink lien σύνδεσμος hivatkozás odkaz linkki länk lenke
    collegamento enlace ligação poveznica ссылка посилання 商品url 链接 連結 링크`),
  image: words(`
    imagelink image imageurl picture pictureurl mainimage img images pictures bild bildlink bildurl εικόνα kép
    zdjęcie obrázek obrázok kuva bilde billede immagine imagen imagem imagine slika resim görsel фото изображение
    画像 画像url 图片 圖片 이미지 afbeelding photo`),
  availability: words(`
    availability stockstatus instock available verfügbarkeit lieferstatus disponibilité disponibilidad status
    διαθεσιμότητα elérhetőség dostępność dostępnosc dostupnost dostupnosť saatavuus tillgänglighet lagerstatus
    tilgængelighed tilgjengelighet disponibilità disponibilidade disponibilitate raspoloživost stokdurumu
    наличность наличие наявність 在庫状況 库存状态 재고상태 beschikbaarheid 在庫 库存 재고 készlet stan skladem zásoba`),
  brand: words(`
    brand manufacturer maker vendor marke hersteller marque marca merk label μάρκα κατασκευαστής márka gyártó
    marka producent značka výrobce výrobca merkki valmistaja märke tillverkare mærke merke produttore fabricante
    producător marcă proizvođač üretici бренд производитель виробник ブランド メーカー 品牌 브랜드 제조사`),
  category: words(`
    producttype category categorypath categories department breadcrumb productcategory kategorie warengruppe
    catégorie categoría κατηγορία kategória kategoria tuoteryhmä kategori varegruppe categoria categorie
    kategorija категория категорія カテゴリ カテゴリー 分类 分類 类别 카테고리`),
  family: words(`
    itemgroupid family familyid parentid parentsku groupid productgroupid modelid`),
  salePrice: words(`
    saleprice specialprice discountprice reducedprice aktionspreis sonderpreis angebotspreis akciósár promóciósár
    cenapromocyjna akčnícena tarjoushinta reapris kampanjpris tilbudspris prezzoscontato prezzopromozionale
    preciooferta preciorebajado preçopromocional prețpromoțional indirimlifiyat セール価格 特価 促销价 할인가 aanbiedingsprijs
    prixpromo`),
  cost: words(`
    costofgoodssold cost itemcost purchaseprice cogs buyingprice ek einkaufspreis prixachat prixdachat
    wholesaleprice wholesale costprice netcost supplierprice dealerprice händlerpreis hek ekpreis ekprice
    landedcost preciodecompra inkoopprijs cenazakupu`),
  fee: words(`
    fee sellingfee commission fulfilmentfee fulfillmentfee handlingcost shippingcost`),
  stock: words(`
    quantity stock stocklevel qty inventory piecesonhand bestand lagerbestand készlet stan stanmagazynowy ilość
    zásoba skladem množství αποθέματα απόθεμα varasto varastosaldo lagersaldo lagerantal lager antal giacenza
    existencias stoc cantitate zaliha stok adet остаток количество кількість 在庫 在庫数 库存 庫存 재고 voorraad aantal`),
  gtin: words(`
    gtin ean gtin13 gtin14 gtin12 gtin8 upc barcode isbn`),
  color: words(`
    color colour colorname colourname farbe`),
  size: words(`
    size sizename productsize itemsize`),
  description: words(`
    description longdescription text details summary beschreibung περιγραφή leírás opis popis kuvaus beskrivning
    beskrivelse descrizione descripción descrição descriere açıklama описание опис 商品説明 説明 描述 상세설명 omschrijving`),
  tax: words(`
    taxrate tax vatrate vat mwst mwstsatz steuersatz tva iva btw`),
};

function words(list: string): string[] {
  return list.trim().split(/\s+/);
}
