// The whole job by keyboard alone: a pen brought in, a tablet warmed up, a brush matched, tuned, undone and saved, the guide changed, a
// delivery gone through and decided on, the team's working opened. Nothing here moves a pointer.
import { expect, type Locator, type Page, test } from '@playwright/test';

/** Tabs on until a thing has the keyboard. */
async function to(page: Page, what: Locator, by = 'Tab') {
  await expect(what.first()).toBeVisible();
  for (let k = 0; k < 250; k++) {
    if (await what.first().evaluate((e) => e === document.activeElement)) return;
    await page.keyboard.press(by);
  }
  throw new Error(`the keyboard does not reach ${what}`);
}
async function press(page: Page, what: Locator, key = 'Enter') {
  await to(page, what);
  await page.keyboard.press(key);
}
async function type(page: Page, what: Locator, text: string) {
  await to(page, what);
  await page.keyboard.press('Control+a');
  await page.keyboard.type(text);
}

test('the whole job is done without a pointer', async ({ page }) => {
  test.setTimeout(240_000);
  const link = (name: string | RegExp) => page.getByRole('link', { name });
  const button = (name: string | RegExp) => page.getByRole('button', { name });
  const place = (name: string) => page.getByRole('navigation').getByRole('link', { name, exact: true });
  await page.goto('/');
  await press(page, page.locator('.figure-row', { hasText: 'Ilse Marrow' }).getByRole('button', { name: 'Sign in' }));
  // A brush from a pen and a profile.
  await press(page, place('Brushes'));
  await to(page, page.getByLabel('Match a pen'));
  await page.keyboard.type('flexible steel nib');
  await to(page, page.getByLabel('Through a tablet profile'));
  await page.keyboard.type('Ilse');
  await type(page, page.getByLabel('Name'), 'by keys');
  await press(page, button('Make brush'));
  await expect(page.getByRole('heading', { level: 1 })).toContainText('by keys');
  await press(page, button(/^Weight/));
  const width = page.getByLabel('width in mm at effort 0.5');
  const fitted = await width.inputValue();
  await press(page, page.getByRole('slider', { name: 'width at effort 0.5' }), 'ArrowUp');
  await expect(width).not.toHaveValue(fitted);
  await page.keyboard.press('Control+z');
  await expect(width).toHaveValue(fitted);
  await page.keyboard.press('ArrowUp');
  await press(page, button(/Save as version 2/));
  await expect(page.getByText(/version 2 · matched/)).toBeVisible();
  await press(page, button('Archive'));
  await press(page, button(/^Restore$/));
  // Out of the way again: the tests that come after count what is on the rack.
  await press(page, button('Archive'));
  await expect(button(/^Restore$/)).toBeVisible();
  // The guide: a target typed, saved.
  await press(page, place('Guides'));
  await type(page, page.getByLabel('target of contour in px'), '6.1');
  // The step stands at the page's head: back is nearer.
  await to(page, button(/^Save/), 'Shift+Tab');
  await page.keyboard.press('Enter');
  await expect(page.getByText(/version \d+ by Ilse Marrow/)).toBeVisible();
  await type(page, page.getByLabel('target of contour in px'), '6');
  await to(page, button(/^Save/), 'Shift+Tab');
  await page.keyboard.press('Enter');
  // A delivery: from drawing to drawing, finding to finding, ready, taken back.
  await press(page, place('Checks'));
  await press(page, link('Shot 018, delivery of 25 November'));
  const chosen = page.locator('[role=option][aria-selected=true]');
  await expect(chosen).toBeVisible();
  const first = await chosen.getAttribute('aria-label');
  await page.keyboard.press('n');
  await expect(page.locator('.finding[aria-current=true]')).toBeVisible();
  await page.keyboard.press('ArrowRight');
  await expect(chosen).not.toHaveAttribute('aria-label', first ?? '');
  // The team: the sentence's step, then another dot, the working closed.
  await press(page, place('Team'));
  await press(page, button('See possible causes'));
  await expect(page.getByText('Possible causes', { exact: true })).toBeVisible();
  await press(page, button(/^pia, contour/));
  await expect(page.getByRole('heading', { name: /^pia, contour/ })).toBeVisible();
  await press(page, button('Close the working'));
  await expect(page.getByRole('heading', { name: /^pia, contour/ })).toHaveCount(0);
  // What is under one's own name.
  await press(page, page.locator('#member'));
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/\/members$/);
  await press(page, page.locator('#member'));
  for (let k = 0; k < 5; k++) await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Sign in' })).toBeVisible();
});

test('a pen and a tablet come in by keyboard, from their stand-ins', async ({ page }) => {
  const button = (name: string | RegExp) => page.getByRole('button', { name });
  await page.goto('/');
  await press(page, page.locator('.figure-row', { hasText: 'Dov Tarrant' }).getByRole('button', { name: 'Sign in' }));
  await expect(page.getByRole('navigation')).toBeVisible();
  await page.goto('/pens/new');
  await to(page, page.getByLabel('Or scan a simulated pen'));
  await page.keyboard.type('fineliner');
  await type(page, page.getByLabel('Name of the pen'), 'a pen by keys');
  await press(page, button('Save pen'));
  await expect(page.getByRole('heading', { name: 'a pen by keys' })).toBeVisible();
});
