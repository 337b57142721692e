/* The chart: chosen channels over time in cells of two by four dots, panels by unit, with their limits. */
#include "screen.h"
#include "view.h"

#include "explain/disassembly.h"
#include "explain/describe.h"

#include <math.h>
#include <string.h>

enum {
    AXIS_WIDTH = 8,
    LABEL_LEAST = 13,
    LABEL_MOST = 20,
    DOTS_X = 2,
    DOTS_Y = 4,
    LIMITS_MOST = 12,
    ROWS_MARKED = 64,
    MANY_ROWS = 1024
};

#define ROOM       0.08 /* of the range, above and below */
#define THREE_FROM 18   /* rows, for three panels */

typedef struct dot_cell {
    uint8_t dots;
    int8_t series; /* the one that drew last */
} dot_cell;

typedef struct panel {
    const char *unit;
    int apart;
    guint item[SERIES_MOST];
    guint items;
    double low, high;
    int row, column, rows, columns; /* of the cells for curves */
    int labels;                     /* columns behind them */
    int first;                      /* column of dots in which the history begins */
    dot_cell *cell;
} panel;

/* ---- what is in it --------------------------------------------------------------------------------- */

/* One panel a unit, and for what is kept apart; more than `most` do not show. */
static guint find_panels(const view *v, guint most, panel *p)
{
    guint count = 0;
    for (guint i = 0; i < v->item->len; i++) {
        const view_item *is = view_item_at(v, i);
        guint k = 0;
        if (is->series < 0) {
            continue;
        }
        while (k < count && (strcmp(p[k].unit, view_unit(v, is)) != 0 || p[k].apart != is->apart)) {
            k++;
        }
        if (k == most) {
            continue;
        }
        if (k == count) {
            p[count++] = (panel){.unit = view_unit(v, is), .apart = is->apart};
        }
        p[k].item[p[k].items++] = i;
    }
    return count;
}

typedef struct shown_limit {
    double value;
    const char *param; /* "" for a number */
} shown_limit;

static uint32_t limits_of(const view *v, const panel *p, shown_limit *limit)
{
    g_autofree float *value = g_new0(float, v->image->slots + 1);
    uint32_t count = 0;
    rgp_history_slots(v->history, v->row, value);
    for (guint k = 0; k < p->items; k++) {
        const view_item *is = view_item_at(v, p->item[k]);
        rgp_decoded_limit found[LIMITS_MOST];
        const uint32_t n = rgp_disassembly_limits(v->image, (uint16_t)is->index, found, LIMITS_MOST);
        for (uint32_t i = 0; i < n && count < LIMITS_MOST; i++) {
            int32_t param;
            const float at = rgp_disassembly_setting(v->image, &found[i].step, found[i].offset, value, &param);
            const char *name = param >= 0 ? rgp_image_text(v->image, RGP_NAME_SLOT, (uint32_t)param, 0) : "";
            limit[count++] = (shown_limit){(double)at, name};
        }
    }
    return count;
}

static void find_range(view *v, panel *p, guint number, uint64_t from, uint64_t to)
{
    view_scale *scale = &v->scale[number];
    shown_limit limit[LIMITS_MOST];
    if (scale->fixed) {
        p->low = scale->low;
        p->high = scale->high;
        return;
    }
    p->low = INFINITY;
    p->high = -INFINITY;
    for (guint k = 0; k < p->items; k++) {
        const rgp_extent e = rgp_history_extent(v->history, view_item_at(v, p->item[k])->column, from, to);
        if (e.usable > 0) {
            p->low = fmin(p->low, (double)e.least);
            p->high = fmax(p->high, (double)e.greatest);
        }
    }
    const uint32_t limits = limits_of(v, p, limit);
    for (uint32_t i = 0; i < limits && !v->close; i++) {
        p->low = fmin(p->low, limit[i].value);
        p->high = fmax(p->high, limit[i].value);
    }
    if (p->low > p->high) {
        p->low = p->high = 0.0;
    }
    if (strcmp(p->unit, "%") == 0 && !v->close) {
        p->low = fmin(p->low, 0.0);
        p->high = fmax(p->high, 100.0);
    }
    const double room = p->high > p->low ? ROOM * (p->high - p->low) : fmax(fabs(p->high) * ROOM, 1.0);
    p->low -= room;
    p->high += room;
    scale->low = p->low;
    scale->high = p->high;
}

/* ---- dots ------------------------------------------------------------------------------------------ */

/* The dot row of a value, from the top; beyond the edges it is cut off. */
static int dot_row(const panel *p, double value)
{
    const double share = (p->high - value) / (p->high - p->low);
    return (int)lround(CLAMP(share, 0.0, 1.0) * (p->rows * DOTS_Y - 1));
}

static void put_dot(panel *p, int x, int y, int series)
{
    static const uint8_t bit[DOTS_Y][DOTS_X] = {{0x01, 0x08}, {0x02, 0x10}, {0x04, 0x20}, {0x40, 0x80}};
    dot_cell *c = &p->cell[y / DOTS_Y * p->columns + x / DOTS_X];
    c->dots |= bit[y % DOTS_Y][x % DOTS_X];
    c->series = (int8_t)series;
}

/* Each column of dots reaches from the least to the greatest of its time, and on to where the one before it ended. */
static void draw_curve(const view *v, panel *p, const view_item *is, const uint64_t *row_at)
{
    int last_top = -1, last_bottom = -1;
    for (int x = p->first; x < p->columns * DOTS_X; x++) {
        const uint64_t from = row_at[x], to = MAX(row_at[x + 1], from + 1);
        const rgp_extent e = rgp_history_extent(v->history, is->column, from, to);
        if (e.usable == 0) {
            last_top = -1;
            continue;
        }
        int top = dot_row(p, (double)e.greatest), bottom = dot_row(p, (double)e.least);
        const int own_top = top, own_bottom = bottom;
        if (last_top >= 0) {
            top = MIN(top, last_bottom);
            bottom = MAX(bottom, last_top);
        }
        for (int y = top; y <= bottom; y++) {
            put_dot(p, x, y, is->series);
        }
        last_top = own_top;
        last_bottom = own_bottom;
    }
}

static void show_cells(const panel *p)
{
    for (int row = 0; row < p->rows; row++) {
        for (int column = 0; column < p->columns; column++) {
            const dot_cell *c = &p->cell[row * p->columns + column];
            if (c->dots) {
                char text[8] = {0};
                g_unichar_to_utf8(0x2800u + c->dots, text);
                screen_put(p->row + row, p->column + column, 1, (ink)(INK_SERIES + c->series), text);
            }
        }
    }
}

/* ---- axes ------------------------------------------------------------------------------------------ */

static int cell_row(const panel *p, double value)
{
    return p->row + dot_row(p, value) / DOTS_Y;
}

/* A dashed line for each limit, and beside it its parameter or its number. Rows that are written on are marked. */
static void draw_limits(const view *v, const panel *p, uint64_t *taken)
{
    shown_limit limit[LIMITS_MOST];
    const uint32_t limits = limits_of(v, p, limit);
    for (uint32_t i = 0; i < limits; i++) {
        if (limit[i].value < p->low || limit[i].value > p->high) {
            continue;
        }
        const int row = cell_row(p, limit[i].value);
        for (int column = 0; column < p->columns; column++) {
            screen_put(row, p->column + column, 1, INK_DIM, "┄");
        }
        g_autoptr(GString) text = g_string_new(limit[i].param);
        g_string_append(text, *limit[i].param ? " " : "");
        rgp_describe_number(limit[i].value, "", text);
        screen_put(row, p->column + p->columns + 1, p->labels, INK_DIM, text->str);
        *taken |= (uint64_t)1 << CLAMP(row - p->row, 0, ROWS_MARKED - 1);
    }
}

/* 1, 2 or 5 times a power of ten, so that at least three cells lie between two numbers. */
static double tick_step(const panel *p)
{
    const double rough = (p->high - p->low) * fmin(1.0, 3.0 / p->rows), power = pow(10.0, floor(log10(rough)));
    const double head = rough / power;
    return power * (head <= 1.0 ? 1.0 : head <= 2.0 ? 2.0 : head <= 5.0 ? 5.0 : 10.0);
}

static void draw_axis(const panel *p)
{
    const double step = tick_step(p);
    bool labelled = false; /* the top row, where else the unit stands */
    for (int row = 0; row < p->rows; row++) {
        screen_put(p->row + row, p->column - 1, 1, INK_DIM, "│");
    }
    for (double k = ceil(p->low / step); k * step <= p->high; k += 1.0) {
        g_autoptr(GString) text = g_string_new(NULL);
        const int row = cell_row(p, k * step);
        rgp_describe_number(k * step, row == p->row ? p->unit : "", text);
        if (g_utf8_strlen(text->str, -1) > AXIS_WIDTH - 2) { /* the unit is worth more than the number beside it */
            g_string_assign(text, p->unit);
        }
        const int length = MIN((int)g_utf8_strlen(text->str, -1), AXIS_WIDTH - 2);
        labelled |= row == p->row;
        screen_put(row, p->column - 2 - length, length, INK_DIM, text->str);
        screen_put(row, p->column - 1, 1, INK_DIM, "┤");
    }
    const int length = (int)g_utf8_strlen(p->unit, -1);
    if (!labelled) {
        screen_put(p->row, p->column - 2 - MIN(length, AXIS_WIDTH - 2), length, INK_DIM, p->unit);
    }
}

/* Each curve's name beside its newest value, pushed down where one stands already. */
static void draw_names(const view *v, const panel *p, uint64_t from, uint64_t to, uint64_t taken)
{
    const int lowest = CLAMP(p->rows, 1, ROWS_MARKED) - 1;
    for (guint k = 0; k < p->items; k++) {
        const view_item *is = view_item_at(v, p->item[k]);
        const uint64_t last = to > from ? to - 1 : from;
        const bool usable = to > from && rgp_usable(rgp_history_quality(v->history, is->column, last));
        const double value = usable ? (double)rgp_history_value(v->history, is->column, last) : p->low;
        int at = CLAMP(cell_row(p, value) - p->row, 0, lowest);
        while (at < lowest && (taken >> at & 1u)) {
            at++;
        }
        while (at > 0 && (taken >> at & 1u)) {
            at--;
        }
        taken |= (uint64_t)1 << at;
        screen_printf(p->row + at, p->column + p->columns + 1, p->labels, (ink)(INK_SERIES + is->series), "%d %s",
                      is->series + 1, view_name(v, is));
    }
}

/* A stretch that somebody has named, along the time axis, with its name where there is room. */
static void draw_stretch(const rgp_occurrence *o, int row, int column, int columns, double left, double right)
{
    const double scale = (columns - 1) / (right - left);
    const int from = (int)(fmax(o->time - left, 0.0) * scale + 0.5),
              to = (int)(fmin(o->until - left, right - left) * scale + 0.5);
    const int letters = (int)g_utf8_strlen(o->of, -1);
    for (int k = from; k <= to; k++) {
        screen_put(row, column + k, 1, INK_STRONG, "━");
    }
    if (letters + 4 <= to - from + 1) {
        screen_printf(row, column + (from + to - letters) / 2 - 1, letters + 2, INK_STRONG, " %s ", o->of);
    }
}

static void draw_time_axis(const view *v, int row, int column, int columns, double left, double right)
{
    const GPtrArray *all = rgp_history_occurrences(v->history);
    for (int k = 0; k < columns; k++) {
        screen_put(row, column + k, 1, INK_DIM, "─");
    }
    for (guint i = 0; i < all->len; i++) {
        const rgp_occurrence *o = all->pdata[i];
        if (o->until > o->time && o->time < right && o->until > left) {
            draw_stretch(o, row, column, columns, left, right);
        }
    }
    for (guint i = all->len; i-- > 0;) {
        const rgp_occurrence *o = all->pdata[i];
        if (o->time < left) {
            break;
        }
        if (o->time <= right && o->until == o->time &&
            (o->kind == RGP_EVENT_FIRED || o->kind == RGP_EVENT_MARK || rgp_occurrence_is_fault(o))) {
            const int at = (int)((o->time - left) / (right - left) * (columns - 1) + 0.5);
            screen_put(row, column + at, 1, rgp_occurrence_is_fault(o) ? INK_BAD : INK_PLAIN,
                       o->kind == RGP_EVENT_MARK ? "◆" : "▲");
        }
    }
    for (int k = 0; k <= 2; k++) {
        const double time = left + (right - left) * k / 2;
        g_autofree char *text = time < -1e-9 ? g_strdup("") : g_strdup_printf("%.*f s", v->span < 2.0 ? 3 : 1, time);
        const int length = (int)strlen(text), at = k * (columns - 1) / 2 - k * (length - 1) / 2;
        if (k == 1 && 3 * (length + 1) > columns) { /* the one in the middle has no room */
            continue;
        }
        screen_put(row + 1, column + at, length, INK_DIM, text);
    }
}

/* The dot column of the row that is shown. */
static void draw_cursor(const view *v, const panel *p, double left, double right)
{
    const double share = (view_time(v, v->row) - left) / (right - left);
    const int at = (int)(CLAMP(share, 0.0, 1.0) * (p->columns - 1) + 0.5);
    for (int row = 0; row < p->rows; row++) {
        if (!p->cell[row * p->columns + at].dots) {
            screen_put(p->row + row, p->column + at, 1, INK_STRONG, "│");
        }
    }
}

/* ---- the whole ------------------------------------------------------------------------------------- */

static void draw_panel(view *v, panel *p, guint number, const uint64_t *row_at, double left, double right)
{
    const uint64_t from = row_at[0], to = row_at[p->columns * DOTS_X];
    find_range(v, p, number, from, to);
    p->cell = g_new0(dot_cell, (gsize)p->rows * (gsize)p->columns);
    draw_axis(p);
    uint64_t taken = 0;
    draw_limits(v, p, &taken);
    for (guint k = 0; k < p->items; k++) {
        draw_curve(v, p, view_item_at(v, p->item[k]), row_at);
    }
    show_cells(p);
    draw_names(v, p, from, to, taken);
    if (v->frozen) {
        draw_cursor(v, p, left, right);
    }
    g_free(p->cell);
}

/* As wide as the longest name, where the curves can spare it. */
static int label_width(const view *v, int width)
{
    int most = LABEL_LEAST;
    for (guint i = 0; i < v->item->len; i++) {
        const view_item *is = view_item_at(v, i);
        most = is->series < 0 ? most : MAX(most, (int)strlen(view_name(v, is)) + 3);
    }
    return MIN(most, CLAMP(width / 3, LABEL_LEAST, LABEL_MOST));
}

/* Moves the ends of dots that stand for many rows to whole hundreds of them: the recording's index knows the extremes
 * of those, even of rows that have not been read. */
static void round_rows(uint64_t *row_at, int dots)
{
    const bool many = row_at[dots] - row_at[0] >= (uint64_t)dots * MANY_ROWS;
    for (int x = 0; x < dots && many; x++) {
        row_at[x] -= row_at[x] % RGP_HISTORY_COARSE;
    }
}

static void draw_panels(view *v, panel *p, guint panels, int row, int column, int rows, int width)
{
    const int labels = label_width(v, width), columns = width - AXIS_WIDTH - labels - 1;
    const double right = (double)v->right_us / 1e6, left = right - v->span;
    const double begin = view_time(v, rgp_history_first(v->history));
    g_autofree uint64_t *row_at = g_new(uint64_t, (gsize)(columns * DOTS_X) + 1);
    for (int x = 0; x <= columns * DOTS_X; x++) {
        const double time = left + v->span * x / (columns * DOTS_X);
        row_at[x] =
            time <= 0.0 ? rgp_history_first(v->history) : rgp_history_find(v->history, (uint64_t)llround(time * 1e6));
    }
    row_at[columns * DOTS_X] = rgp_history_find(v->history, v->right_us + 1);
    round_rows(row_at, columns * DOTS_X);
    static const int twelfths[PANELS_MOST][PANELS_MOST] = {{12}, {8, 4}, {6, 3, 3}}; /* of the room, by panels */
    const int room = rows - 2;
    int at = row;
    for (guint k = 0; k < panels; k++) {
        const int behind = (int)(panels - k) - 1, share = MAX(room * twelfths[panels - 1][k] / 12, 1);
        p[k].rows = behind > 0 ? MIN(share, row + room - at - behind) : row + room - at;
        p[k].row = at;
        p[k].column = column + AXIS_WIDTH;
        p[k].columns = columns;
        p[k].labels = labels;
        p[k].first = (int)ceil(CLAMP((begin - left) / v->span, 0.0, 1.0) * columns * DOTS_X);
        draw_panel(v, &p[k], k, row_at, left, right);
        at += p[k].rows;
    }
    draw_time_axis(v, row + rows - 2, column + AXIS_WIDTH, columns, left, right);
}

void view_draw_chart(view *v, int row, int column, int rows, int width)
{
    panel p[PANELS_MOST];
    const guint panels = find_panels(v, rows >= THREE_FROM ? PANELS_MOST : PANELS_MOST - 1, p);
    if (rows < 4 || width < AXIS_WIDTH + LABEL_LEAST + 10) {
        return;
    }
    if (panels == 0) {
        screen_put(row, column, width, INK_DIM, "choose a line and press g to see it here");
        return;
    }
    draw_panels(v, p, panels, row, column, rows, width);
}
