/** What the address of the contact table holds. */
export interface ContactsPlace {
  search?: string | undefined;
  criteria?: string | undefined;
  sort?: string | undefined;
  view?: number | undefined;
  person?: number | undefined;
}
