/** The query of a page's address, for what stands around all pages: Next tells it to the page alone. */
export const SEARCH_HEADER = "x-hot-shelf-search";
