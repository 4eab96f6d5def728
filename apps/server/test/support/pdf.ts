/** A PDF of equal pages with these lines, each as high as it says; the first stands at the top. */
export function pdfOf(lines: readonly { text: string; size: number }[], pages = 1): Buffer {
  let top = 780;
  const content = lines
    .map(({ text, size }) => {
      top -= size * 1.4;
      return `BT /F1 ${size} Tf 50 ${top} Td (${text.replace(/[()\\]/g, '\\$&')}) Tj ET`;
    })
    .join('\n');
  const first = 5;
  const kids = Array.from({ length: pages }, (_, at) => `${first + at} 0 R`);
  const objects = [
    '<< /Type /Catalog /Pages 2 0 R >>',
    `<< /Type /Pages /Kids [${kids.join(' ')}] /Count ${pages} >>`,
    `<< /Length ${content.length} >>\nstream\n${content}\nendstream`,
    '<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>',
    ...kids.map(
      () =>
        '<< /Type /Page /Parent 2 0 R /MediaBox [0 0 595 842] /Contents 3 0 R /Resources << /Font << /F1 4 0 R >> >> >>',
    ),
  ];
  let file = '%PDF-1.4\n';
  const places = objects.map((object, at) => {
    const place = file.length;
    file += `${at + 1} 0 obj\n${object}\nendobj\n`;
    return place;
  });
  const table = places.map((place) => `${String(place).padStart(10, '0')} 00000 n \n`).join('');
  return Buffer.from(
    `${file}xref\n0 ${objects.length + 1}\n0000000000 65535 f \n${table}trailer\n<< /Size ${objects.length + 1} /Root 1 0 R >>\nstartxref\n${file.length}\n%%EOF\n`,
  );
}
