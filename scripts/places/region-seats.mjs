/**
 * The regions that the market has: ISO 3166-2 code without its country, a place that lies in it, its zone where it is not the country's,
 * and its name where the package has only older divisions.
 *
 * @type {readonly [country: string, zone: string, regions: readonly string[]][]}
 */
export const REGION_SEATS = [
  [
    'PT',
    'Europe/Lisbon',
    [
      '11|Lisbon',
      '13|Porto',
      '03|Braga',
      '01|Aveiro',
      '08|Faro',
      '06|Coimbra',
      '15|Setúbal',
      '10|Leiria',
      '18|Viseu',
      '07|Évora',
      '14|Santarém',
      '16|Viana do Castelo'
    ]
  ],
  [
    'ES',
    'Europe/Madrid',
    [
      'MD|Madrid||Madrid',
      'CT|Barcelona||Cataluña',
      'AN|Sevilla',
      'VC|Valencia||Comunitat Valenciana',
      'GA|Vigo',
      'PV|Bilbao||País Vasco',
      'CL|Valladolid',
      'CM|Albacete',
      'AR|Zaragoza',
      'MC|Murcia||Murcia',
      'AS|Gijón||Asturias',
      'IB|Palma',
      'EX|Badajoz',
      'CB|Santander',
      'NC|Pamplona||Navarra',
      'RI|Logroño',
      'CN|Las Palmas de Gran Canaria|Atlantic/Canary'
    ]
  ],
  [
    'FR',
    'Europe/Paris',
    [
      'IDF|Paris||Île-de-France',
      'ARA|Lyon||Auvergne-Rhône-Alpes',
      'OCC|Toulouse||Occitanie',
      'NAQ|Bordeaux||Nouvelle-Aquitaine',
      'BRE|Rennes||Bretagne',
      "PAC|Marseille||Provence-Alpes-Côte-d'Azur",
      'HDF|Lille||Hauts-de-France',
      'GES|Strasbourg||Grand-Est',
      'NOR|Le Havre||Normandie',
      'PDL|Nantes||Pays-de-la-Loire',
      'BFC|Dijon||Bourgogne-Franche-Comté',
      'CVL|Tours||Centre-Val de Loire'
    ]
  ],
  [
    'DE',
    'Europe/Berlin',
    [
      'NW|Köln',
      'BY|Munich',
      'BW|Stuttgart',
      'BE|Berlin',
      'HH|Hamburg',
      'SN|Leipzig',
      'NI|Hannover',
      'HE|Frankfurt am Main',
      'RP|Mainz',
      'SH|Kiel',
      'BB|Potsdam',
      'ST|Magdeburg',
      'TH|Erfurt',
      'MV|Rostock',
      'SL|Saarbrücken',
      'HB|Bremen'
    ]
  ],
  [
    'AT',
    'Europe/Vienna',
    [
      '9|Vienna',
      '3|Sankt Pölten',
      '6|Graz',
      '7|Innsbruck',
      '4|Linz',
      '5|Salzburg',
      '2|Klagenfurt am Wörthersee',
      '8|Bregenz',
      '1|Eisenstadt'
    ]
  ],
  [
    'CH',
    'Europe/Zurich',
    [
      'ZH|Zürich',
      'BE|Bern',
      'VD|Lausanne',
      'GE|Genève',
      'BS|Basel',
      'AG|Aarau',
      'SG|Sankt Gallen',
      'LU|Luzern',
      'TI|Lugano',
      'VS|Sitten',
      'FR|Fribourg||Fribourg'
    ]
  ],
  [
    'IT',
    'Europe/Rome',
    [
      '25|Milan',
      '62|Rome',
      '72|Naples',
      '34|Venice',
      '82|Palermo',
      '21|Turin',
      '45|Bologna',
      '52|Florence',
      '75|Bari',
      '78|Cosenza',
      '88|Cagliari',
      '42|Genoa',
      '57|Ancona',
      '65|Pescara',
      '36|Trieste',
      '32|Trento',
      '55|Perugia'
    ]
  ],
  [
    'NL',
    'Europe/Amsterdam',
    [
      'NH|Amsterdam',
      'ZH|Rotterdam',
      'NB|Eindhoven',
      'UT|Utrecht',
      'GE|Nijmegen',
      'OV|Enschede',
      'LI|Maastricht',
      'FR|Leeuwarden',
      'GR|Groningen',
      'DR|Emmen',
      'FL|Almere Stad',
      'ZE|Middelburg'
    ]
  ],
  ['BE', 'Europe/Brussels', ['VLG|Antwerpen||Flanders', 'WAL|Charleroi||Wallonia', 'BRU|Brussels||Brussels']],
  ['GB', 'Europe/London', ['ENG|London', 'SCT|Glasgow', 'WLS|Cardiff', 'NIR|Belfast']],
  ['IE', 'Europe/Dublin', ['L|Dublin||Leinster', 'M|Cork||Munster', 'C|Gaillimh||Connacht', 'U|Letterkenny||Ulster']],
  [
    'SE',
    'Europe/Stockholm',
    [
      'AB|Stockholm',
      'O|Göteborg',
      'M|Malmö',
      'C|Uppsala',
      'E|Linköping',
      'T|Örebro',
      'F|Jönköping',
      'AC|Umeå',
      'BD|Luleå',
      'X|Gävle',
      'N|Halmstad',
      'U|Västerås'
    ]
  ],
  ['DK', 'Europe/Copenhagen', ['84|Copenhagen', '82|Århus', '83|Odense', '81|Aalborg', '85|Roskilde']],
  [
    'PL',
    'Europe/Warsaw',
    [
      '14|Warsaw||Mazowieckie',
      '24|Katowice||Śląskie',
      '12|Kraków||Małopolskie',
      '30|Poznań||Wielkopolskie',
      '02|Wrocław||Dolnośląskie',
      '10|Łódź||Łódzkie',
      '22|Gdańsk||Pomorskie',
      '32|Szczecin||Zachodniopomorskie',
      '04|Bydgoszcz||Kujawsko-Pomorskie',
      '06|Lublin||Lubelskie',
      '18|Rzeszów||Podkarpackie',
      '20|Białystok||Podlaskie',
      '28|Olsztyn||Warmińsko-Mazurskie',
      '26|Kielce||Świętokrzyskie',
      '16|Opole||Opolskie',
      '08|Zielona Góra||Lubuskie'
    ]
  ],
  [
    'US',
    'America/New_York',
    [
      'CA|Los Angeles|America/Los_Angeles',
      'TX|Houston|America/Chicago',
      'FL|Jacksonville',
      'NY|New York City',
      'IL|Chicago|America/Chicago',
      'CO|Denver|America/Denver',
      'WA|Seattle|America/Los_Angeles',
      'GA|Atlanta',
      'PA|Philadelphia',
      'OH|Cleveland',
      'NC|Charlotte',
      'MI|Detroit',
      'NJ|Newark',
      'VA|Virginia Beach',
      'MA|Boston',
      'AZ|Phoenix|America/Phoenix',
      'TN|Memphis|America/Chicago',
      'IN|Indianapolis',
      'MD|Baltimore',
      'MO|Kansas City|America/Chicago',
      'WI|Milwaukee|America/Chicago',
      'MN|Minneapolis|America/Chicago',
      'OR|Portland|America/Los_Angeles',
      'LA|New Orleans|America/Chicago',
      'UT|Salt Lake City|America/Denver',
      'NV|Las Vegas|America/Los_Angeles'
    ]
  ],
  [
    'CA',
    'America/Toronto',
    [
      'ON|Toronto',
      'QC|Montréal',
      'BC|Vancouver|America/Vancouver',
      'AB|Calgary|America/Denver',
      'MB|Winnipeg|America/Chicago',
      'NS|Halifax|America/Halifax',
      'SK|Saskatoon|America/Regina',
      'NB|Moncton|America/Halifax'
    ]
  ],
  [
    'MX',
    'America/Mexico_City',
    [
      'CMX|Mexico City',
      'MEX|Ecatepec de Morelos',
      'JAL|Guadalajara',
      'NLE|Monterrey',
      'PUE|Puebla',
      'GUA|León de los Aldama',
      'VER|Veracruz||Veracruz',
      'CHP|Tuxtla',
      'MIC|Morelia||Michoacán',
      'OAX|Oaxaca',
      'YUC|Mérida',
      'QUE|Santiago de Querétaro'
    ]
  ],
  [
    'BR',
    'America/Sao_Paulo',
    [
      'SP|São Paulo',
      'RJ|Rio de Janeiro',
      'MG|Belo Horizonte',
      'BA|Salvador',
      'AM|Manaus|America/Manaus',
      'PR|Curitiba',
      'RS|Porto Alegre',
      'PE|Recife',
      'CE|Fortaleza',
      'PA|Belém',
      'SC|Florianópolis',
      'GO|Goiânia',
      'DF|Brasília',
      'ES|Vitória'
    ]
  ],
  [
    'AR',
    'America/Argentina/Buenos_Aires',
    ['C|Buenos Aires', 'B|La Plata', 'X|Córdoba', 'S|Rosario', 'M|Mendoza', 'T|San Miguel de Tucumán', 'E|Paraná', 'A|Salta']
  ],
  [
    'IN',
    'Asia/Kolkata',
    [
      'MH|Mumbai',
      'DL|Delhi',
      'KA|Bengaluru',
      'TN|Chennai',
      'UP|Kanpur',
      'WB|Kolkata',
      'RJ|Jaipur',
      'MP|Indore',
      'BR|Patna',
      'KL|Thiruvananthapuram',
      'PB|Ludhiāna',
      'HR|Farīdābād',
      'AP|Visakhapatnam',
      'GJ|Ahmedabad'
    ]
  ],
  [
    'JP',
    'Asia/Tokyo',
    [
      '13|Tokyo||Tokyo',
      '27|Osaka',
      '23|Nagoya',
      '40|Fukuoka',
      '01|Sapporo',
      '14|Yokohama',
      '28|Kobe',
      '26|Kyoto',
      '11|Saitama',
      '12|Chiba',
      '34|Hiroshima',
      '04|Sendai',
      '22|Shizuoka',
      '47|Naha'
    ]
  ],
  [
    'AU',
    'Australia/Sydney',
    ['NSW|Sydney', 'VIC|Melbourne', 'QLD|Brisbane|Australia/Brisbane', 'WA|Perth|Australia/Perth', 'ACT|Canberra', 'TAS|Hobart']
  ],
  [
    'ZA',
    'Africa/Johannesburg',
    [
      'GP|Johannesburg||Gauteng',
      'WC|Cape Town||Western Cape',
      'EC|Port Elizabeth',
      'FS|Bloemfontein||Free State',
      'MP|Nelspruit||Mpumalanga',
      'LP|Polokwane'
    ]
  ],
  [
    'ID',
    'Asia/Jakarta',
    [
      'JK|Jakarta',
      'JB|Bandung',
      'JI|Surabaya',
      'BA|Denpasar|Asia/Makassar',
      'JT|Semarang',
      'BT|Tangerang',
      'SU|Medan',
      'SN|Makassar|Asia/Makassar',
      'SS|Palembang',
      'YO|Yogyakarta'
    ]
  ]
]
