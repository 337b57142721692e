/* Checksums of what every example does, with three seeds: a rebuilt engine has to give the same bits. `make goldens`
 * writes them anew; a change of them needs a line in CHANGELOG.md that says why. */
#include "support.h"

#include "sim/sim.h"
#include "explain/describe.h"

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

#define GOLDENS RIGPULSE_SOURCE "/tests/goldens.txt"
#define SEEDS   3u
#define LENGTH  60000000u /* us */

/* Fowler, Noll and Vo, 1991 (FNV-1a, 64 bits). */
static uint64_t mix(uint64_t sum, const void *bytes, size_t size)
{
    for (size_t i = 0; i < size; i++) {
        sum = (sum ^ ((const unsigned char *)bytes)[i]) * 1099511628211u;
    }
    return sum;
}

static uint64_t mix_text(const char *text)
{
    return mix(14695981039346656037u, text, strlen(text) + 1);
}

/* One run. Sums are kept by name, so that the order of slots does not matter. */
typedef struct golden {
    bench b;
    uint64_t *value, *quality, *owner;
    uint64_t events;
} golden;

static const char *name_of(const golden *g, uint32_t slot)
{
    return rgp_image_name_of(g->b.engine.image, RGP_NAME_SLOT, slot, 0)
               ? rgp_image_text(g->b.engine.image, RGP_NAME_SLOT, slot, 0)
               : NULL;
}

static void take_tick(golden *g)
{
    const rgp_image_header *image = g->b.engine.image;
    for (uint16_t slot = 0; slot < image->slots; slot++) {
        const rgp_reading is = rgp_engine_value(&g->b.engine, slot);
        g->value[slot] = mix(g->value[slot], &is.value, sizeof is.value);
        g->quality[slot] = mix(g->quality[slot], &is.quality, 1);
    }
    for (uint16_t i = 0; i < rgp_image_count(image, RGP_SECTION_ACTUATORS); i++) {
        g_autoptr(GString) owner = g_string_new(NULL);
        rgp_describe_owner(image, rgp_engine_owner(&g->b.engine, i), owner);
        g->owner[i] = mix(g->owner[i], owner->str, owner->len + 1);
    }
    for (uint32_t i = 0; i < g->b.events; i++) {
        const rgp_event *e = &g->b.event[i];
        const char *word = rgp_event_word(e->kind), *subject = rgp_event_subject(image, e);
        g->events = mix(g->events, &g->b.now_us, sizeof g->b.now_us);
        g->events = mix(g->events, word, strlen(word) + 1);
        g->events = mix(g->events, subject, strlen(subject) + 1);
        g->events = mix(g->events, &e->value, sizeof e->value);
    }
}

static void begin(golden *g, const char *text)
{
    *g = (golden){.events = mix_text("events")};
    bench_open(&g->b, text);
    const rgp_image_header *image = g->b.engine.image;
    g->value = g_new0(uint64_t, image->slots + 1u);
    g->quality = g_new0(uint64_t, image->slots + 1u);
    g->owner = g_new0(uint64_t, image->slots + 1u);
    for (uint32_t slot = 0; slot < image->slots; slot++) {
        const char *name = name_of(g, slot);
        g->value[slot] = g->quality[slot] = name ? mix_text(name) : 0;
    }
    for (uint32_t i = 0; i < rgp_image_count(image, RGP_SECTION_ACTUATORS); i++) {
        g->owner[i] = mix_text(name_of(g, rgp_image_actuator_slot(image, i)));
    }
}

/* "outputs", "values" (of all that has a name), their qualities, the owners, and the events. */
static void put_sums(const golden *g, GString *to)
{
    const rgp_image_header *image = g->b.engine.image;
    const uint32_t first = rgp_image_actuator_slot(image, 0), actuators = rgp_image_count(image, RGP_SECTION_ACTUATORS);
    uint64_t outputs = 0, values = 0, qualities = 0, owners = 0;
    for (uint32_t slot = 0; slot < image->slots; slot++) {
        const bool output = slot >= first && slot < first + actuators;
        outputs += output ? g->value[slot] : 0;
        values += !output && name_of(g, slot) ? g->value[slot] : 0;
        qualities += name_of(g, slot) ? g->quality[slot] : 0;
    }
    for (uint32_t i = 0; i < actuators; i++) {
        owners += g->owner[i];
    }
    g_string_append_printf(to, " %016" PRIx64 " %016" PRIx64 " %016" PRIx64 " %016" PRIx64 " %016" PRIx64 "\n", outputs,
                           values, qualities, owners, g->events);
}

static void run_golden(const char *text, uint64_t seed, GString *to)
{
    golden g;
    begin(&g, text);
    rgp_sim *sim = rgp_sim_new(g.b.rig, seed, false, NULL);
    assert_non_null(sim);
    const rgp_port *port = rgp_sim_port(sim);
    for (g.b.now_us = 0; g.b.now_us < LENGTH; g.b.now_us += g.b.engine.image->tick_us) {
        g.b.events = 0;
        port->sleep_until(port->self, g.b.now_us);
        assert_int_equal(rgp_engine_tick(&g.b.engine, port), RGP_OK);
        take_tick(&g);
    }
    put_sums(&g, to);
    rgp_sim_free(sim);
    bench_close(&g.b);
    g_free(g.value);
    g_free(g.quality);
    g_free(g.owner);
}

static void run_folder(const char *folder, GString *to)
{
    g_autofree char *path = g_build_filename(RIGPULSE_SOURCE, folder, NULL);
    GPtrArray *rigs = list_files(path, ".rig");
    assert_true(rigs->len > 0);
    for (guint i = 0; i < rigs->len; i++) {
        g_autofree char *text = get_file(path, rigs->pdata[i]);
        for (uint64_t seed = 1; seed <= SEEDS; seed++) {
            g_string_append_printf(to, "%s/%s %" PRIu64, folder, (const char *)rigs->pdata[i], seed);
            run_golden(text, seed, to);
        }
    }
    g_ptr_array_unref(rigs);
}

static void test_every_example_gives_the_same_bits(void **unused)
{
    (void)unused;
    g_autoptr(GString) now = g_string_new("# example, seed: checksums of outputs, other values, qualities, owners, "
                                          "events over 60 s\n");
    g_autofree char *before = NULL;
    run_folder("examples", now);
    run_folder("examples/poor", now);
    if (g_getenv("RIGPULSE_REWRITE")) {
        assert_true(g_file_set_contents(GOLDENS, now->str, (gssize)now->len, NULL));
        return;
    }
    assert_true(g_file_get_contents(GOLDENS, &before, NULL, NULL));
    g_auto(GStrv) old = g_strsplit(before, "\n", -1);
    g_auto(GStrv) new = g_strsplit(now->str, "\n", -1);
    assert_int_equal(g_strv_length(old), g_strv_length(new));
    for (guint i = 0; new[i]; i++) {
        assert_string_equal(new[i], old[i]);
    }
}

int main(void)
{
    const struct CMUnitTest tests[] = {cmocka_unit_test(test_every_example_gives_the_same_bits)};
    return cmocka_run_group_tests(tests, NULL, NULL);
}
