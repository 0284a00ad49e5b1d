"""Names as varied as real ones. All invented; (given, family, language) by script and custom."""

FIRST_NAMES: dict[str, tuple[str, ...]] = {
    "en": ("Ada", "Rowan", "Maeve", "Tobias", "Imogen", "Callum", "Beatrix", "Owen", "Philippa", "Jude", "Niamh", "Edmund", "Tamsin", "Hugh", "Cerys", "Alasdair", "Winifred", "Bram", "Delyth", "Percy", "Isolde", "Lachlan", "Rosalind", "Gethin"),
    "de": ("Annegret", "Jürgen", "Käthe", "Matthias", "Sigrid", "Lüder", "Heike", "Björn", "Gudrun", "Anselm", "Ilse", "Götz"),
    "fr": ("Aurélie", "Benoît", "Chloé", "François", "Hélène", "Étienne", "Maëlle", "Gaël", "Océane", "Théo"),
    "pl": ("Zofia", "Łukasz", "Małgorzata", "Wojciech", "Świętosława", "Bożena", "Mieczysław", "Agnieszka", "Paweł"),
    "el": ("Ζωή", "Νικόλαος", "Ελένη", "Θεόδωρος", "Καλλιόπη", "Σπύρος"),
    "ja": ("美咲", "蓮", "陽菜", "大和", "結衣", "悠真"),
    "ar": ("ليلى", "يوسف", "مريم", "خالد", "نور"),
    "uk": ("Олеся", "Богдан", "Ганна", "Тарас"),
    "nl": ("Anneke", "Piet", "Sanne", "Joost", "Femke"),
}  # fmt: skip

LAST_NAMES: dict[str, tuple[str, ...]] = {
    "en": ("Thwaite-Gray", "O’Ruairc", "Fenwick", "St. John-Marlowe", "Ashgrove", "Penhallow", "MacIlraith", "Quill", "Underbarrow", "Harkness", "Ng", "D’Arcy-Holt", "Blackstock", "Eley", "Wren", "Tregarthen", "Lowick", "Sallow", "Peverell-Smythe", "Garth", "Cragg", "Ivings"),
    "de": ("Grünwald", "von der Höh", "Schieferstein", "Bergmann-Lüth", "Öttinger", "Kleßmann", "Zinnhobler"),
    "fr": ("Lefèvre", "d’Ardoise", "Pierrefeu", "de la Roche-Noire", "Moëlan", "Grenat"),
    "pl": ("Źródłowska", "Kamieński", "Szczęsny", "Brzezińska", "Żelazny", "Kwarcowa"),
    "el": ("Καλλέργη", "Πετρόπουλος", "Λιθάρης", "Ορυκτού"),
    "ja": ("石川", "岩崎", "金子", "水晶"),
    "ar": ("الصخري", "حداد", "المعدني"),
    "uk": ("Кремінь", "Скельна", "Гранатенко"),
    "nl": ("van Ommeren", "de Graaf", "ter Steege", "Kiezel"),
}  # fmt: skip

# Shares of the languages among the contacts; they add up to 1.
LANGUAGE_SHARES: dict[str, float] = {
    "en": 0.58, "de": 0.13, "fr": 0.08, "pl": 0.07, "nl": 0.05, "el": 0.03, "uk": 0.02, "ja": 0.02, "ar": 0.02,
}  # fmt: skip

# The odd ones that every list has.
ODD_NAMES: tuple[tuple[str, str], ...] = (
    ("J", "Wren"),
    ("X", "Æ"),
    ("Wolfeschlegelsteinhausen-Bergerdorffensteinbach", "Llanfairpwllgwyngyllgogerychwyrndrobwll-Jones"),
    ("Anna  Maria", "del Río y Cobre"),
    ("Renée-Claire", "O'Neill-Łoś"),
    ("sam", "LOWERCASE"),
    ("Ζ", "Ω"),
)

STREETS: tuple[str, ...] = (
    "Slate Row", "Adit Lane", "Kiln Street", "Under Tarn", "Quarry Hill", "Spar Yard", "Wharf Road", "Old Level",
    "Chapel Rake", "Garnet Way",
)  # fmt: skip

TOWNS: tuple[str, ...] = (
    "Skarn", "Skellbeck", "Skarthwaite", "Upper Gossan", "Malachite Bay", "Feldspar Cross", "Port Andesite",
    "Tuffington", "Gneiss-on-Water", "Breccia", "Little Schist", "Marlby", "Quartzford", "Lode End",
)  # fmt: skip

SCHOOLS: tuple[str, ...] = (
    "Skarn Primary School", "Gossan Academy", "Feldspar Cross High School", "St. Barbara's School, Lode End",
)  # fmt: skip

SPECIMENS: tuple[str, ...] = (
    "Fluorite", "Galena", "Almandine", "Uvarovite", "Malachite", "Smoky quartz", "Staurolite", "Pyrite sun", "Calcite",
)  # fmt: skip

LOCALITIES: tuple[str, ...] = ("Skarn Quarry", "Lode End Mine", "Copper Adit", "Upper Gossan", "Breccia Cliff")

WALKS: tuple[str, ...] = ("Scree Path", "Copper Adit", "Garnet Beach", "Old Tramway")
