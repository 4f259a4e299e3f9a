/** Made-up people: given and family names joined at random, some with diacritics, one word, or other scripts. */
type Names = readonly [string, ...string[]];

export interface Place {
  name: string;
  zone: string;
  given: Names;
  family: Names;
}

const ISLES: Names = [
  'Wren',
  'Ione',
  'Tobias',
  'Maud',
  'Callum',
  'Perpetua',
  'Hollis',
  'Una',
  'Jago',
  'Bryony',
  'Efan',
  'Síle',
];
const ISLES_FAMILY: Names = [
  'Marsh',
  'Quillfeather',
  'Oakes',
  'Penhaligan',
  'Thorne',
  'Ó Ruadháin',
  'Larkspur',
  'Fenwright',
  'Ashdown',
];

export const PLACES: readonly [Place, ...Place[]] = [
  {
    name: 'Quillan Head',
    zone: 'Atlantic/Azores',
    given: ['Inês', 'Tomé', 'Graça', 'Zeferino', 'Luzia', 'Baltazar', 'Mécia', 'Duarte', 'Açucena'],
    family: ['da Fajã', 'Bettencor', 'Rocha-Mar', 'do Canto', 'Avelã', 'Pico Alto', 'Silveirinha'],
  },
  { name: 'Marrow Fen', zone: 'Europe/London', given: ISLES, family: ISLES_FAMILY },
  {
    name: 'Sant Elm',
    zone: 'Europe/Madrid',
    given: ['Núria', 'Íñigo', 'Aitana', 'Xoán', 'Montserrat', 'Lluc', 'Begoña', 'Señén', 'Ximena'],
    family: ['Olivares', 'Puigdellívol', 'Etxeberri', 'Castaño', 'Ferragut', 'Muñiz', 'de la Encina'],
  },
  {
    name: 'Kestrel Gorge',
    zone: 'Africa/Nairobi',
    given: ['Wanjiku', 'Otieno', 'Amina', 'Kiprono', 'Nafula', 'Baraka', 'Zawadi', 'Mutiso', 'حليمة'],
    family: ['Kamaue', 'Odhiamba', 'Cheruiyat', 'Wekhesa', 'Nduta', 'Mwangaza', 'Barasi'],
  },
  {
    name: 'Oru Terrace',
    zone: 'Asia/Kathmandu',
    given: ['Pemba', 'Sarita', 'Bishnu', 'Ang Dawa', 'माया', 'Laxmi', 'Tenzing', 'Rabin', 'Yangchen'],
    family: ['Gurungma', 'Tamangi', 'Shresthal', 'Raila', 'Lamahi', 'Thapali', 'Sherpani'],
  },
  {
    name: 'Mallee Reach',
    zone: 'Australia/Adelaide',
    given: ['Darcy', 'Kirra', 'Lachlan', 'Marli', 'Beau', 'Tarni', 'Jarrah', 'Nell', 'Ashwin'],
    family: ['Wattleby', 'Saltbrook', 'Ironbark', 'Karadinga', 'Pellew-Hart', 'Stringer', 'Quandon'],
  },
  {
    name: 'Tarn Hollow',
    zone: 'Pacific/Auckland',
    given: ['Aroha', 'Wiremu', 'Māia', 'Tāne', 'Hinemoa', 'Rua', 'Ngaio', 'Kahurangi', 'Fleur'],
    family: ['Te Awhina', 'Parakore', 'Rangihau', 'Tōtara', 'Kererū', 'Moanaroa', 'McTavishe'],
  },
  {
    name: 'Juniper Flat',
    zone: 'America/Denver',
    given: ['Sage', 'Marisol', 'Ezra', 'Winona', 'Dell', 'Xochitl', 'Cordelia', 'Amos', 'Thuy'],
    family: ['Redwillow', 'Cottonbrook', 'Begayle', 'Sandovar', 'Prairie', 'Hollisterne', 'Nguyênne'],
  },
  {
    name: 'Cinder Bay',
    zone: 'Pacific/Honolulu',
    given: ['Kailani', 'Keola', 'Noelani', 'Makoa', 'Leilani', 'Haruto', 'Ikaika', 'Emi', 'Pua'],
    family: ['Kealohani', 'Nakagawara', 'Kahananu', 'Palakiko', 'Yamashiroma', 'Kamakawa', 'Mahoe-Lani'],
  },
];

/** People with something particular about their name. */
export const PARTICULAR: { name: string; place: string }[] = [
  { name: 'Suryo', place: 'Oru Terrace' },
  { name: 'Ngaire', place: 'Tarn Hollow' },
  { name: 'ليلى الحداد', place: 'Kestrel Gorge' },
  { name: 'יעל בר-לב', place: 'Marrow Fen' },
  { name: 'فرهاد کوهی', place: 'Juniper Flat' },
  { name: '佐倉 みのり', place: 'Cinder Bay' },
  { name: 'Zoë Đặng-Åkerblom', place: 'Sant Elm' },
  { name: 'Anna Lind', place: 'Marrow Fen' },
  { name: 'Anna Lind', place: 'Mallee Reach' },
  { name: 'Tom Reed', place: 'Quillan Head' },
  { name: 'Tom Reed', place: 'Juniper Flat' },
];
