/* The history: blocks of rows, and occurrences. */
#include "block.h"

#include "explain/describe.h"

#include <math.h>
#include <string.h>

#define OCCURRENCES_MOST 100000u

struct rgp_history {
    const rgp_image_header *image;
    uint32_t slots, rules, actuators, sensors, columns;
    int32_t *column_of; /* by slot */
    uint32_t *value_of; /* by column, of those that hold slots and rules: their place among a frame's values */
    uint32_t values;    /* how many do */
    size_t bytes_most;
    GPtrArray *block;
    uint64_t dropped; /* blocks */
    uint64_t end;     /* rows */
    GPtrArray *occurrence;
    rgp_history_load *load; /* of blocks that are promised */
    void *self;
    rgp_block *filling; /* one whose rows are being read; NULL: none */
    uint64_t filling_from;
    float *row_value; /* for one row that is being put together */
    rgp_quality *row_quality;
};

/* ---- making and dropping --------------------------------------------------------------------------- */

void rgp_occurrence_free(rgp_occurrence *o)
{
    if (o) {
        g_free(o->of);
        g_free(o->says);
        g_free(o->why);
        g_free(o->did);
        g_free(o);
    }
}

static void free_occurrence(void *self)
{
    rgp_occurrence_free(self);
}

static void free_block(void *self)
{
    rgp_block_free(self);
}

static void find_columns(rgp_history *h)
{
    h->column_of = g_new(int32_t, h->slots + 1);
    h->value_of = g_new(uint32_t, h->slots + h->rules + 1);
    for (uint32_t slot = 0; slot < h->slots; slot++) {
        const bool named = rgp_image_name_of(h->image, RGP_NAME_SLOT, slot, 0) != NULL;
        h->column_of[slot] = named ? (int32_t)h->values : -1;
        h->value_of[h->values] = slot;
        h->values += named;
    }
    for (uint32_t rule = 0; rule < h->rules; rule++) {
        h->value_of[h->values++] = h->slots + rule;
    }
    h->columns += h->values + h->actuators + h->sensors;
}

rgp_history *rgp_history_new(const rgp_image_header *image, size_t bytes_most)
{
    rgp_history *h = g_new0(rgp_history, 1);
    h->image = image;
    h->slots = image->slots;
    h->rules = rgp_image_count(image, RGP_SECTION_RULES);
    h->actuators = rgp_image_count(image, RGP_SECTION_ACTUATORS);
    h->sensors = rgp_image_count(image, RGP_SECTION_SENSORS);
    find_columns(h);
    h->bytes_most = bytes_most;
    h->block = g_ptr_array_new_with_free_func(free_block);
    h->occurrence = g_ptr_array_new_with_free_func(free_occurrence);
    h->row_value = g_new0(float, h->columns + 1);
    h->row_quality = g_new0(rgp_quality, h->columns + 1);
    return h;
}

void rgp_history_free(rgp_history *h)
{
    if (h) {
        g_ptr_array_unref(h->block);
        g_ptr_array_unref(h->occurrence);
        g_free(h->column_of);
        g_free(h->value_of);
        g_free(h->row_value);
        g_free(h->row_quality);
        g_free(h);
    }
}

static void drop_occurrences(rgp_history *h)
{
    guint old = 0;
    while (old < h->occurrence->len &&
           ((const rgp_occurrence *)h->occurrence->pdata[old])->row < rgp_history_first(h)) {
        old++;
    }
    if (h->occurrence->len - old > OCCURRENCES_MOST) {
        old = h->occurrence->len - OCCURRENCES_MOST / 2u;
    }
    if (old > 0) {
        g_ptr_array_remove_range(h->occurrence, 0, old);
    }
}

static size_t bytes_now(const rgp_history *h)
{
    size_t bytes = 0;
    for (guint i = 0; i < h->block->len; i++) {
        bytes += rgp_block_bytes(h->block->pdata[i]);
    }
    return bytes;
}

static rgp_block *open_block(rgp_history *h)
{
    while (h->bytes_most > 0 && h->block->len > 1 && bytes_now(h) + rgp_block_bytes_most(h->columns) > h->bytes_most) {
        g_ptr_array_remove_index(h->block, 0);
        h->dropped++;
        drop_occurrences(h);
    }
    rgp_block *b = rgp_block_new(h->columns);
    g_ptr_array_add(h->block, b);
    return b;
}

/* ---- adding ---------------------------------------------------------------------------------------- */

void rgp_history_row(rgp_history *h, uint64_t time_us, const float *value, const rgp_quality *quality)
{
    if (h->filling) {
        if (rgp_block_rows(h->filling) < BLOCK_ROWS) {
            rgp_block_row(h->filling, time_us, value, quality);
        }
        return;
    }
    rgp_block *b = h->end % BLOCK_ROWS == 0 ? open_block(h) : h->block->pdata[h->block->len - 1];
    rgp_block_row(b, time_us, value, quality);
    h->end++;
}

void rgp_history_occurred(rgp_history *h, const rgp_occurrence *what)
{
    rgp_occurrence *o = g_memdup2(what, sizeof *what);
    o->until = MAX(o->until, o->time);
    g_ptr_array_add(h->occurrence, o);
    if (h->bytes_most > 0 && h->occurrence->len > 2u * OCCURRENCES_MOST) {
        drop_occurrences(h);
    }
}

static void put_event(rgp_history *h, const rgp_frame_layout *layout, const rgp_frame *frame, const rgp_event *event)
{
    GString *says = g_string_new(NULL), *why = NULL, *did = NULL;
    rgp_describe_event(h->image, layout, frame, event, says);
    if (event->kind == RGP_EVENT_FIRED) {
        why = g_string_new(NULL);
        did = g_string_new(NULL);
        rgp_describe_why(h->image, layout, frame, event->source, why);
        rgp_describe_actions(h->image, layout, frame, event->source, did);
    }
    const rgp_occurrence o = {.row = h->end,
                              .time = (double)frame->time_us / 1e6,
                              .kind = event->kind,
                              .line = rgp_event_line(h->image, event),
                              .of = g_strdup(rgp_event_subject(h->image, event)),
                              .says = g_string_free(says, FALSE),
                              .why = why ? g_string_free(why, FALSE) : NULL,
                              .did = did ? g_string_free(did, FALSE) : NULL};
    rgp_history_occurred(h, &o);
}

void rgp_history_frame(rgp_history *h, const rgp_frame_layout *layout, const rgp_frame *frame)
{
    const float *value = rgp_frame_value(layout, frame);
    const rgp_quality *quality = rgp_frame_quality(layout, frame);
    const uint16_t *owner = rgp_frame_owner(layout, frame);
    const rgp_event *event = rgp_frame_event(layout, frame);
    const uint8_t *newness = rgp_frame_newness(layout, frame);
    uint32_t column = 0;
    for (; column < h->values; column++) {
        h->row_value[column] = value[h->value_of[column]];
        h->row_quality[column] = quality[h->value_of[column]];
    }
    for (uint32_t i = 0; i < h->actuators; i++) {
        h->row_value[column] = (float)owner[i];
        h->row_quality[column++] = RGP_GOOD;
    }
    for (uint32_t i = 0; i < h->sensors; i++) {
        h->row_value[column] = (float)newness[i];
        h->row_quality[column++] = RGP_GOOD;
    }
    for (uint32_t i = 0; i < frame->events; i++) {
        if (event[i].kind != RGP_EVENT_EDGE) { /* each change of a switch: for the recording, not for a person */
            put_event(h, layout, frame, &event[i]);
        }
    }
    rgp_history_row(h, frame->time_us, h->row_value, h->row_quality);
}

void rgp_history_mark(rgp_history *h, const char *text)
{
    const uint64_t row = h->end > 0 ? h->end - 1 : 0;
    const rgp_occurrence o = {.row = row,
                              .time = h->end > 0 ? (double)rgp_history_time_us(h, row) / 1e6 : 0.0,
                              .kind = RGP_EVENT_MARK,
                              .of = g_strdup(text),
                              .says = g_strdup_printf("mark '%s' by hand", text)};
    rgp_history_occurred(h, &o);
}

bool rgp_occurrence_is_mark(const rgp_occurrence *o)
{
    return o->kind == RGP_EVENT_MARK && o->line == 0;
}

const rgp_occurrence *rgp_history_put_mark(rgp_history *h, const char *name, double from, double until)
{
    const uint64_t row = rgp_history_find(h, (uint64_t)llround(from * 1e6));
    rgp_occurrence *o = g_new0(rgp_occurrence, 1);
    *o = (rgp_occurrence){.row = MIN(row, h->end - 1),
                          .time = from,
                          .until = until,
                          .kind = RGP_EVENT_MARK,
                          .of = g_strdup(name),
                          .says = until > from ? g_strdup_printf("stretch '%s', to %.3f s", name, until)
                                               : g_strdup_printf("mark '%s'", name)};
    guint at = h->occurrence->len;
    while (at > 0 && ((const rgp_occurrence *)h->occurrence->pdata[at - 1])->time > from) {
        at--;
    }
    g_ptr_array_insert(h->occurrence, (gint)at, o);
    return o;
}

rgp_occurrence *rgp_history_take(rgp_history *h, const rgp_occurrence *what)
{
    guint at = 0;
    return g_ptr_array_find(h->occurrence, what, &at) ? g_ptr_array_steal_index(h->occurrence, at) : NULL;
}

/* ---- looking --------------------------------------------------------------------------------------- */

const rgp_image_header *rgp_history_image(const rgp_history *h)
{
    return h->image;
}

uint32_t rgp_history_columns(const rgp_history *h)
{
    return h->columns;
}

int32_t rgp_history_slot(const rgp_history *h, uint32_t slot)
{
    return slot < h->slots ? h->column_of[slot] : -1;
}

int32_t rgp_history_named(const rgp_history *h, const char *name)
{
    const int32_t slot = rgp_image_find(h->image, RGP_FIND_SLOT, name);
    return slot < 0 ? -1 : rgp_history_slot(h, (uint32_t)slot);
}

uint32_t rgp_history_rule(const rgp_history *h, uint32_t rule)
{
    return h->columns - h->sensors - h->actuators - h->rules + rule;
}

uint32_t rgp_history_owner(const rgp_history *h, uint32_t actuator)
{
    return h->columns - h->sensors - h->actuators + actuator;
}

uint32_t rgp_history_newness(const rgp_history *h, uint32_t sensor)
{
    return h->columns - h->sensors + sensor;
}

uint64_t rgp_history_first(const rgp_history *h)
{
    return h->dropped * BLOCK_ROWS;
}

uint64_t rgp_history_end(const rgp_history *h)
{
    return h->end;
}

static rgp_block **place_of(const rgp_history *h, uint64_t row)
{
    return (rgp_block **)&h->block->pdata[row / BLOCK_ROWS - h->dropped];
}

/* Reads the rows of a promised block. Rows that the file no longer has stay missing. */
static void keep_promise(rgp_history *h, uint64_t row)
{
    rgp_block **place = place_of(h, row), *promise = *place;
    const uint32_t rows = rgp_block_rows(promise);
    h->filling = rgp_block_new(h->columns);
    h->filling_from = row - row % BLOCK_ROWS;
    h->load(h->self, h->filling_from, rows);
    memset(h->row_value, 0, h->columns * sizeof *h->row_value);
    memset(h->row_quality, RGP_MISSING, h->columns);
    for (uint32_t i = rgp_block_rows(h->filling); i < rows; i++) {
        rgp_block_row(h->filling, rgp_block_time(promise, i), h->row_value, h->row_quality);
    }
    *place = h->filling;
    h->filling = NULL;
    rgp_block_free(promise);
}

static rgp_block *block_of(const rgp_history *h, uint64_t row)
{
    rgp_block *const there = *place_of(h, row);
    if (!h->load || !rgp_block_is_promise(there)) {
        return there;
    }
    if (h->filling && row >= h->filling_from && row < h->filling_from + BLOCK_ROWS) {
        return h->filling;
    }
    keep_promise((rgp_history *)(uintptr_t)h, row); /* it is the same history, with more of it in memory */
    return *place_of(h, row);
}

void rgp_history_promise(rgp_history *h, rgp_block *promise, rgp_history_load *load, void *self)
{
    h->load = load;
    h->self = self;
    g_ptr_array_add(h->block, promise);
    h->end += rgp_block_rows(promise);
}

const rgp_block *rgp_history_block(const rgp_history *h, uint32_t block)
{
    return h->block->pdata[block];
}

uint32_t rgp_history_blocks(const rgp_history *h)
{
    return h->block->len;
}

uint64_t rgp_history_next(const rgp_history *h)
{
    return h->filling ? h->filling_from + rgp_block_rows(h->filling) : h->end;
}

/* Even times are known before the rows are. */
uint64_t rgp_history_time_us(const rgp_history *h, uint64_t row)
{
    const rgp_block *b = *place_of(h, row);
    const uint32_t at = (uint32_t)(row % BLOCK_ROWS);
    if (!h->load) {
        return rgp_block_time(b, at);
    }
    const bool known = rgp_block_is_promise(b) && !h->filling && (at == 0 || rgp_block_times_of(b).even_us > 0);
    return rgp_block_time(known ? b : block_of(h, row), at);
}

float rgp_history_value(const rgp_history *h, uint32_t column, uint64_t row)
{
    return rgp_block_value(block_of(h, row), column, (uint32_t)(row % BLOCK_ROWS));
}

rgp_quality rgp_history_quality(const rgp_history *h, uint32_t column, uint64_t row)
{
    return rgp_block_quality(block_of(h, row), column, (uint32_t)(row % BLOCK_ROWS));
}

uint64_t rgp_history_same_rows(const rgp_history *a, uint32_t column, const rgp_history *b, uint32_t other,
                               uint64_t row)
{
    const bool begins = row % BLOCK_ROWS == 0 && row >= rgp_history_first(a) && row >= rgp_history_first(b) &&
                        row < a->end && row < b->end;
    return begins && rgp_block_is_same(block_of(a, row), column, block_of(b, row), other)
               ? rgp_block_rows(block_of(a, row))
               : 0;
}

void rgp_history_put(rgp_history *h, uint32_t column, uint64_t row, float value, rgp_quality quality)
{
    rgp_block_put(block_of(h, row), column, (uint32_t)(row % BLOCK_ROWS), value, quality);
}

uint64_t rgp_history_find(const rgp_history *h, uint64_t time_us)
{
    uint64_t low = rgp_history_first(h), high = h->end;
    while (high - low > BLOCK_ROWS) { /* by the first rows of blocks, which are known of all */
        const uint64_t middle = low + (high - low) / 2, begin = middle - middle % BLOCK_ROWS;
        const uint64_t at = begin > low ? begin : begin + BLOCK_ROWS;
        if (at >= high) {
            break;
        }
        if (rgp_history_time_us(h, at) < time_us) {
            low = at;
        } else {
            high = at;
        }
    }
    while (low < high) {
        const uint64_t middle = low + (high - low) / 2;
        if (rgp_history_time_us(h, middle) < time_us) {
            low = middle + 1;
        } else {
            high = middle;
        }
    }
    return low;
}

rgp_extent rgp_history_extent(const rgp_history *h, uint32_t column, uint64_t from, uint64_t to)
{
    rgp_extent e = {0};
    to = MIN(to, h->end);
    for (uint64_t row = MAX(from, rgp_history_first(h)); row < to;) {
        const uint64_t begin = row - row % BLOCK_ROWS, next = MIN(begin + BLOCK_ROWS, to);
        const uint32_t first = (uint32_t)(row - begin), end = (uint32_t)(next - begin);
        const rgp_block *b = *place_of(h, row);
        rgp_block_extent(rgp_block_knows_extent(b, first, end) ? b : block_of(h, row), column, first, end, &e);
        row = next;
    }
    return e;
}

/* A loop that has cut out for good says so in its sentence. */
bool rgp_occurrence_is_fault(const rgp_occurrence *o)
{
    const bool for_good = o->says && g_str_has_prefix(o->says, "fault");
    const rgp_event event = {.kind = o->kind, .value = for_good ? 0.0f : 1.0f};
    return rgp_event_is_fault(&event);
}

const GPtrArray *rgp_history_occurrences(const rgp_history *h)
{
    return h->occurrence;
}

void rgp_history_slots(const rgp_history *h, uint64_t row, float *value)
{
    for (uint32_t slot = 0; slot < h->slots; slot++) {
        value[slot] = h->column_of[slot] >= 0 ? rgp_history_value(h, (uint32_t)h->column_of[slot], row) : 0.0f;
    }
}

/* ---- many rows at once ----------------------------------------------------------------------------- */

/* The end of those rows that lie in one block with the first one. */
static uint64_t end_in_block(uint64_t from, uint64_t to)
{
    return MIN(from - from % BLOCK_ROWS + BLOCK_ROWS, to);
}

/* For each block: its rows `at` up to, and not with, `end`, which go to where rows from `row` on go. */
#define OF_BLOCKS(call)                                                                      \
    for (uint64_t row = from, next; row < to; row = next) {                                  \
        next = end_in_block(row, to);                                                        \
        const uint32_t at = (uint32_t)(row % BLOCK_ROWS), end = at + (uint32_t)(next - row); \
        call;                                                                                \
    }

void rgp_history_copy_times(const rgp_history *h, uint64_t from, uint64_t to, uint64_t *time_us)
{
    OF_BLOCKS(rgp_block_copy_times(block_of(h, row), at, end, time_us + (row - from)))
}

void rgp_history_copy_values(const rgp_history *h, uint32_t column, uint64_t from, uint64_t to, float *value)
{
    OF_BLOCKS(rgp_block_copy_values(block_of(h, row), column, at, end, value + (row - from)))
}

void rgp_history_copy_qualities(const rgp_history *h, uint32_t column, uint64_t from, uint64_t to,
                                rgp_quality *quality){
    OF_BLOCKS(rgp_block_copy_qualities(block_of(h, row), column, at, end, quality + (row - from)))}

uint64_t rgp_history_stays(const rgp_history *h, uint32_t column, uint64_t row)
{
    return rgp_block_is_level(block_of(h, row), column) ? end_in_block(row, h->end) : row + 1;
}

uint64_t rgp_history_even(const rgp_history *h, uint64_t row)
{
    return rgp_block_times_of(block_of(h, row)).even_us > 0 ? end_in_block(row, h->end) : row + 1;
}
