/** Pictures that are seen, side by side in one file with their captions. */

const [GAP, CAPTION] = [12, 44];
const PAPER = "#2a2a2a";
const INK = "#f2ece3";

/** Save what canvases show, each as large as it is, by their test ids. */
export function captioned(name: string, ids: readonly string[], captions: readonly string[]) {
  const pictures = ids.flatMap(
    (id) => document.querySelector<HTMLCanvasElement>(`canvas[data-testid="${id}"]`) ?? [],
  );
  const height = Math.max(...pictures.map((each) => each.height));
  const sheet = document.createElement("canvas");
  // Pictures of another size are brought to one height, so that neither seems the larger.
  const widths = pictures.map((each) => Math.round((each.width * height) / each.height));
  sheet.width = widths.reduce((sum, width) => sum + width, GAP * (pictures.length - 1));
  sheet.height = height + CAPTION;
  const pen = sheet.getContext("2d")!;
  pen.fillStyle = PAPER;
  pen.fillRect(0, 0, sheet.width, sheet.height);
  pen.fillStyle = INK;
  pen.font = "500 20px 'Figtree Variable', sans-serif";
  pen.textBaseline = "middle";
  let left = 0;
  pictures.forEach((picture, place) => {
    pen.drawImage(picture, left, 0, widths[place]!, height);
    pen.fillText(captions[place] ?? "", left + 10, height + CAPTION / 2, widths[place]! - 20);
    left += widths[place]! + GAP;
  });
  const link = document.createElement("a");
  link.href = sheet.toDataURL("image/png");
  link.download = name;
  link.click();
}
