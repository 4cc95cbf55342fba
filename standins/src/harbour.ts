import { Router } from 'express';

/** What the trust publishes; `{at}` is the address of the stand-in. */
const CATALOG = `@prefix dcat: <http://www.w3.org/ns/dcat#> .
@prefix dct: <http://purl.org/dc/terms/> .
@prefix foaf: <http://xmlns.com/foaf/0.1/> .
@prefix vcard: <http://www.w3.org/2006/vcard/ns#> .
@prefix prov: <http://www.w3.org/ns/prov#> .
@prefix csvw: <http://www.w3.org/ns/csvw#> .
@prefix skos: <http://www.w3.org/2004/02/skos/core#> .
@prefix xsd: <http://www.w3.org/2001/XMLSchema#> .
@base <{at}/> .

<catalog> a dcat:Catalog ;
  dct:title "Open data of the harbour"@en , "Åbne data fra havnen"@da ;
  dct:description "What the Marrick Harbour Trust publishes about its quays, its waters and who calls there."@en ;
  dct:publisher <trust> ;
  dcat:dataset <berth-calls> , <berth-calls/2025> , <berth-calls/2026> , <tides> , <water-levels> , <quays> , <delays> ;
  dcat:service <notices> .

<trust> a foaf:Agent ; foaf:name "Marrick Harbour Trust" .
<desk> a vcard:Kind ; vcard:fn "Data desk of the trust" .
<licence> a dct:LicenseDocument ; dct:title "Free to use, with the name of the trust" .
<theme/transport> a skos:Concept ; skos:prefLabel "Transport"@en .
<theme/sea> a skos:Concept ; skos:prefLabel "The sea"@en .

<berth-calls> a dcat:Dataset , dcat:DatasetSeries ;
  dct:title "Berth calls"@en ;
  dct:description "Every arrival and departure at a quay of the harbour, a file a year."@en ;
  dct:publisher <trust> ; dcat:contactPoint <desk> ; dct:license <licence> ;
  dcat:theme <theme/transport> ; dcat:keyword "ships"@en , "arrivals"@en , "skibe"@da ;
  dct:issued "2025-02-01"^^xsd:date ; dct:modified "2026-11-02"^^xsd:date .
<berth-calls/2025> a dcat:Dataset ; dct:title "Berth calls 2025"@en ; dct:description "All of the year."@en ;
  dcat:inSeries <berth-calls> ; dct:publisher <trust> ; dct:modified "2026-01-04"^^xsd:date ;
  dcat:distribution <berth-calls/2025#csv> .
<berth-calls/2025#csv> a dcat:Distribution ; dcat:accessURL <files/berth-calls-2025.csv> ; dcat:downloadURL <files/berth-calls-2025.csv> ;
  dcat:mediaType <http://www.iana.org/assignments/media-types/text/csv> ; dcat:byteSize "418211"^^xsd:nonNegativeInteger .
<berth-calls/2026> a dcat:Dataset ; dct:title "Berth calls 2026"@en ; dct:description "The year so far, brought up to date every Monday."@en ;
  dcat:inSeries <berth-calls> ; dct:publisher <trust> ; dct:modified "2026-11-02"^^xsd:date ;
  dcat:distribution <berth-calls/2026#csv> .
<berth-calls/2026#csv> a dcat:Distribution ; dcat:accessURL <files/berth-calls-2026.csv> ; dcat:downloadURL <files/berth-calls-2026.csv> ;
  dcat:mediaType <http://www.iana.org/assignments/media-types/text/csv> ; dcat:byteSize "377920"^^xsd:nonNegativeInteger .

<tides> a dcat:Dataset ; dct:title "Tide tables"@en ; dct:description "High and low water at the outer mole, a year ahead."@en ;
  dct:publisher <trust> ; dct:license <licence> ; dcat:theme <theme/sea> ; dcat:landingPage <pages/tides> ;
  dcat:distribution [ a dcat:Distribution ; dct:title "Tide tables as JSON"@en ; dcat:accessURL <files/tides.json> ; dcat:mediaType <http://www.iana.org/assignments/media-types/application/json> ] ,
    [ a dcat:Distribution ; dct:title "Tide tables as a sheet"@en ; dcat:accessURL <files/tides.csv> ; dcat:mediaType <http://www.iana.org/assignments/media-types/text/csv> ] .

<water-levels> a dcat:Dataset , csvw:Table ; dct:title "Water levels"@en ; dct:description "Measured every ten minutes at three gauges."@en ;
  dct:publisher <trust> ; dct:license <licence> ; dcat:theme <theme/sea> ; dcat:keyword "gauges"@en ;
  csvw:tableSchema [ a csvw:Schema ; csvw:primaryKey "gauge" , "measured_at" ;
    csvw:column ( [ csvw:name "gauge" ; csvw:title "gauge" ; csvw:datatype xsd:string ; csvw:required true ; dct:description "Which of the three"@en ]
      [ csvw:name "measured_at" ; csvw:title "measured_at" ; csvw:datatype xsd:dateTime ; csvw:required true ]
      [ csvw:name "level_cm" ; csvw:title "level_cm" ; csvw:datatype xsd:integer ; dct:description "Above the zero of the chart, in centimetres"@en ] ) ] .

<quays> a dcat:Dataset , csvw:Table ; dct:title "Quays"@en ; dct:description "Length and depth of every quay, as surveyed."@en ;
  dct:publisher <trust> ; dcat:theme <theme/transport> ;
  csvw:tableSchema [ a csvw:Schema ; csvw:primaryKey "quay" ;
    csvw:column ( [ csvw:name "quay" ; csvw:title "quay" ; csvw:datatype xsd:string ; csvw:required true ]
      [ csvw:name "length_m" ; csvw:title "length_m" ; csvw:datatype xsd:decimal ]
      [ csvw:name "depth_m" ; csvw:title "depth_m" ; csvw:datatype xsd:decimal ] ) ] .

<delays> a dcat:Dataset ; dct:title "Delays by quay"@en ; dct:description "How late ships leave, by quay and month. Worked out from the calls."@en ;
  dct:publisher <trust> ; prov:wasDerivedFrom <berth-calls> , <quays> ;
  dcat:distribution [ a dcat:Distribution ; dct:title "delays.csv" ; dcat:accessURL <files/delays.csv> ; dcat:mediaType <http://www.iana.org/assignments/media-types/text/csv> ] .

<notices> a dcat:DataService ; dct:title "Notices to mariners"@en ; dct:description "What is closed, dredged or marked anew, as it is said."@en ;
  dcat:endpointURL <notices/v1> ; dct:publisher <trust> .
`;

/** The harbour trust, which publishes what it has by DCAT; nobody need say who they are. */
export function harbour(): Router {
  const router = Router();
  router.get('/catalog.ttl', (request, response) => {
    const at = `${request.protocol}://${request.get('host') ?? '127.0.0.1'}/harbour`;
    response.type('text/turtle').send(CATALOG.replace('{at}', at));
  });
  router.get('/pages/:name', (_request, response) => {
    response.type('html').send('<!doctype html><title>Harbour trust</title><p>Open data of the harbour.</p>');
  });
  return router;
}
