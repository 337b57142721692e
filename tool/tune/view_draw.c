/* The picture: curves, the loop's terms, the tries, the bottom. */
#include "view.h"

#include "explain/describe.h"
#include "tool/terminal/screen.h"

#include <math.h>
#include <string.h>

#define TRIES_ROWS 8
#define SAID_ROWS  5u
#define SIDE_WIDTH 34
#define ROWS_LEAST 12
#define COLS_LEAST 80

/* The curves: setpoint and measured above, the output and its terms below. */
void tune_choose_curves(tune_view *v)
{
    const rgp_image_loop *l = v->t->is;
    const rgp_image_claim *claim = rgp_image_at(v->t->image, RGP_SECTION_CLAIMS);
    const uint32_t slots[] = {l->first + RGP_TERM_TARGET,
                              l->measured,
                              rgp_image_actuator_slot(v->t->image, claim[l->claim].actuator),
                              l->first + RGP_TERM_P,
                              l->first + RGP_TERM_I,
                              l->first + RGP_TERM_D};
    v->chart.item = g_array_new(FALSE, FALSE, sizeof(view_item));
    for (uint32_t i = 0; i < G_N_ELEMENTS(slots); i++) {
        const int32_t column = rgp_history_slot(v->chart.history, slots[i]);
        if (column >= 0 && (i < 3 || l->terms > RGP_TERM_D)) {
            const view_item item = {ITEM_SIGNAL, slots[i], (uint32_t)column, (int)i, i < 2 ? 0 : i == 2 ? 1 : 2};
            g_array_append_val(v->chart.item, item);
        }
    }
}

static void put_slot(const tune_view *v, int row, int column, const char *name, uint32_t slot, ink with)
{
    const int32_t at = rgp_history_slot(v->chart.history, slot);
    const uint64_t last = rgp_history_end(v->chart.history) - 1;
    g_autoptr(GString) text = g_string_new(NULL);
    if (at < 0) {
        return;
    }
    const rgp_quality quality = rgp_history_quality(v->chart.history, (uint32_t)at, last);
    if (rgp_usable(quality)) {
        rgp_describe_value(v->t->image, slot, rgp_history_value(v->chart.history, (uint32_t)at, last), text);
    } else {
        g_string_assign(text, rgp_quality_word(quality));
    }
    screen_put(row, column, 12, INK_DIM, name);
    screen_put(row, column + 12, SIDE_WIDTH - 13, with, text->str);
}

static void draw_side(const tune_view *v, int row, int column)
{
    const rgp_image_loop *l = v->t->is;
    g_autofree char *settings = tune_settings_text(v->t, v->gain);
    for (uint32_t i = 0; i < v->t->gains; i++, row++) {
        screen_printf(row, column, SIDE_WIDTH, i == v->chosen ? INK_HEAD : INK_PLAIN, " %-9s %10.4g %s ",
                      tune_gain_word(v->t, i), v->gain[i], tune_gain_unit(v->t, i));
    }
    if (*settings) {
        screen_put(row++, column + 1, SIDE_WIDTH - 1, INK_STRONG, settings);
    }
    row++;
    put_slot(v, row++, column, "loop", l->first, INK_STRONG);
    put_slot(v, row++, column, "setpoint", l->first + RGP_TERM_TARGET, INK_PLAIN);
    put_slot(v, row++, column, "measured", l->measured, INK_PLAIN);
    put_slot(v, row++, column, "error", l->first + RGP_TERM_ERROR, INK_PLAIN);
    put_slot(v, row++, column, "output", l->first + RGP_TERM_OUTPUT, INK_PLAIN);
    if (l->terms > RGP_TERM_SATURATED) {
        put_slot(v, row++, column, "P", l->first + RGP_TERM_P, INK_PLAIN);
        put_slot(v, row++, column, "I", l->first + RGP_TERM_I, INK_PLAIN);
        put_slot(v, row++, column, "D", l->first + RGP_TERM_D, INK_PLAIN);
        put_slot(v, row++, column, "asked", l->first + RGP_TERM_UNLIMITED, INK_PLAIN);
        put_slot(v, row, column, "saturated", l->first + RGP_TERM_SATURATED, INK_PLAIN);
    }
}

/* The newest below; over what the side has there, where the screen is low. */
static void draw_tries(const tune_view *v, int row, int rows)
{
    const int width = screen_columns();
    for (int i = row; i < screen_rows(); i++) {
        screen_fill(i, 0, width, INK_PLAIN, "");
    }
    g_autoptr(GPtrArray) lines = tune_table(v->t, 1);
    screen_put(row, 0, width, INK_DIM, lines->pdata[0]);
    const guint all = v->t->tries->len, first = all > (guint)(rows - 1) ? all - (guint)(rows - 1) : 0;
    for (guint i = first; i < all; i++) {
        const tune_try *one = tune_try_at(v->t, i);
        const size_t says = one->stopped ? 2 : one->response.verdict == RGP_VERDICT_SETTLED ? 0 : 1;
        screen_put(row + 1 + (int)(i - first), 0, width, tune_inks[says].with, lines->pdata[i + 1]);
    }
    if (all == 0) {
        screen_put(row + 1, 1, width, INK_DIM, "no test yet: s steps the setpoint, p pushes the output, x disturbs");
    }
}

/* By words, in as many rows as it needs, at most SAID_ROWS, of which `row` is the last. */
static void draw_said(int row, int width, const char *said)
{
    g_autoptr(GPtrArray) lines = g_ptr_array_new_with_free_func(g_free);
    g_auto(GStrv) words = g_strsplit(said, " ", -1);
    g_autoptr(GString) line = g_string_new(NULL);
    for (char **word = words; *word; word++) {
        const glong length = g_utf8_strlen(line->str, -1) + 1 + g_utf8_strlen(*word, -1);
        if (line->len > 0 && length >= width && lines->len + 1 < SAID_ROWS) {
            g_ptr_array_add(lines, g_strdup(line->str));
            g_string_truncate(line, 0);
        }
        g_string_append_printf(line, "%s%s", line->len ? " " : "", *word);
    }
    g_ptr_array_add(lines, g_strdup(line->str));
    for (guint i = 0; i < lines->len; i++) {
        const int at = row - (int)(lines->len - 1 - i);
        screen_fill(at, 0, width, INK_PLAIN, "");
        screen_put(at, 1, width - 1, INK_WARN, lines->pdata[i]);
    }
}

static void draw_bottom(const tune_view *v, int row)
{
    const int width = screen_columns();
    const char *said = note_now(&v->note);
    if (v->prompt.question) {
        g_autofree char *asks = prompt_text(&v->prompt, width);
        const int length = (int)g_utf8_strlen(asks, -1);
        screen_put(row - 1, 1, width, INK_STRONG, asks);
        screen_put(row - 1, length + 3, MAX(width - length - 3, 0), INK_WARN, said ? said : "");
    } else if (v->testing) {
        const uint64_t last = rgp_history_end(v->chart.history) - 1;
        g_autofree char *test = tune_test_text(v->t, &v->test);
        screen_printf(row - 1, 1, width, INK_GOOD, "test: %s, %.1f of %.4g s; Esc cancels it", test,
                      ((double)rgp_history_time_us(v->chart.history, last) - (double)v->begin_us) / 1e6, v->t->over);
    } else if (said) {
        draw_said(row - 1, width, said);
    }
    tune_draw_hints(row, width);
}

void tune_draw_view(tune_view *v)
{
    const int rows = screen_rows(), width = screen_columns(), tries = MIN(TRIES_ROWS, rows / 3);
    screen_clear();
    if (v->help) {
        tune_draw_help();
        return;
    }
    if (rows < ROWS_LEAST || width < COLS_LEAST || rgp_history_end(v->chart.history) == 0) {
        screen_put(0, 0, width, INK_PLAIN, rows < ROWS_LEAST || width < COLS_LEAST ? "too small; q leaves" : "begins");
        return;
    }
    v->chart.row = rgp_history_end(v->chart.history) - 1;
    v->chart.right_us = rgp_history_time_us(v->chart.history, v->chart.row);
    g_autofree char *head =
        g_strdup_printf(" tune %s of %s   %.1f s   looks at a test for %.4g s   pace %g ({ })%s", v->t->name,
                        rgp_image_text(v->t->image, RGP_NAME_RIG, 0, 0), (double)v->chart.right_us / 1e6, v->t->over,
                        v->pace, v->stopped ? "   EVERYTHING RESTS" : "");
    screen_fill(0, 0, width, INK_HEAD, head);
    view_draw_chart(&v->chart, 1, 0, rows - tries - 4, width - SIDE_WIDTH - 1);
    draw_side(v, 2, width - SIDE_WIDTH);
    draw_tries(v, rows - tries - 2, tries);
    draw_bottom(v, rows - 1);
}
