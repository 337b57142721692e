/* The loader on images that are cut off, altered or forged. */
#include "support.h"

#include <stdlib.h>
#include <string.h>

#define HEAD                                 \
    "rig t\ntick 10 ms\n"                    \
    "sensor s counts 0..100\n"               \
    "actuator a percent 0..100, rest at 5\n" \
    "actuator b switch, rest at off\n"       \
    "param p = 50 counts in 20..80 counts\n"

static rgp_status try_open(const void *image, uint32_t size, void *memory, uint32_t room, rgp_engine *engine)
{
    return rgp_engine_open(engine, image, size, memory, room);
}

static const char whole_rig[] =
    HEAD "signal x = s | despike 3 | table 0: 0 cm, 50: 3 cm, 100: 9 cm | smooth 50 ms\n"
         "bands z = x: low below 2 cm, mid, high above 7 cm; margin 2 mm\n"
         "bands y = s: few below p, many\n"
         "while z is low and y is few\n    a p * 1 %/counts for 20 ms\n    holdoff 20 "
         "ms\non z leaves mid\n    b on\n    mark m\n"
         "signal q = (z leaves mid) | count\nsignal v = (z is low) | lag from (z is high), within 1 s\n"
         "signal u = x | reach 2 mm\nsignal w = x | approach 3 cm, slowing 1 cm\n"
         "keep q\ncue over\nmode day: dawn, noon\nnever a above 90 while z is high\n"
         "never a with b\nnever a stalled, x moves 1 mm in 30 ms\n"
         "stop while x above 8.9 cm until z is low\n"
         "sequence lift, only while day is dawn\n    cycle 3 times\n        a 20 %\n"
         "        dwell 10 ms\n    await over within 20 ms, else go ending\n    b on\n"
         "    cue over\n    part ending\n    day noon\n    dwell 10 ms\n    go ending if z is high\n"
         "on 3 times z goes mid within 1 s\n    begin lift\n"
         "on 20 ms after over\n    begin lift anew\n"
         "on start or every 30 ms\n    begin lift\n    a 30 % for 10 ms, 2 times every 20 ms, priority 2\n";

/* A rig without shaping, so that loops may simply go on. */
static const char loops_rig[] =
    HEAD "actuator c percent -50..50, rest at 0\nactuator d percent 0..100, rest at 0\n"
         "loop l: s at p with c\n    pid kp 2, ki 30, kd 0.01, filter 20 ms, back 1 s\n    feed s * 0.1 %/counts\n"
         "    ramp 2000 counts/s\n    cut out beyond 90 counts for 30 ms, again\n    engage within 90 counts\n"
         "loop m: s at 30 counts with d\n    on-off margin 2 counts, on at least 20 ms\n    one way\n"
         "loop n: s at 40 counts with a\n    nudge 5 % every 20 ms, within 3 counts\n"
         "on l goes out\n    b on\n";

static void test_every_length_and_every_byte(void **unused)
{
    (void)unused;
    bench b;
    bench_open(&b, whole_rig);
    const uint32_t size = b.rig->image_size, room = b.engine.image->memory;
    unsigned char *copy = aligned_alloc(8, size);
    void *memory = aligned_alloc(8, room);
    rgp_engine engine;
    memcpy(copy, b.rig->image, size);
    for (uint32_t length = 0; length < size; length++) {
        assert_int_not_equal(try_open(copy, length, memory, room, &engine), RGP_OK);
    }
    for (uint32_t i = 0; i < size; i++) {
        copy[i] ^= 0x40;
        assert_int_not_equal(try_open(copy, size, memory, room, &engine), RGP_OK);
        copy[i] ^= 0x40;
    }
    assert_int_equal(try_open(copy, size, memory, room - 1, &engine), RGP_E_MEMORY);
    assert_int_equal(try_open(copy, size, (char *)memory + 4, room, &engine), RGP_E_ALIGNMENT);
    assert_int_equal(try_open(copy, size, memory, room, &engine), RGP_OK);
    free(copy);
    free(memory);
    bench_close(&b);
}

/* With the checksum made good, whatever is still accepted has to run without harm: the sanitizers watch. */
static void forge_all(const char *text)
{
    static const unsigned char masks[] = {0x01, 0x80, 0xFF};
    bench b;
    bench_open(&b, text);
    const uint32_t size = b.rig->image_size;
    unsigned char *copy = aligned_alloc(8, size);
    uint32_t accepted = 0;
    memcpy(copy, b.rig->image, size);
    for (uint32_t i = 0; i < 3 * size; i++) {
        copy[i / 3] ^= masks[i % 3];
        rgp_image_header *header = (rgp_image_header *)(void *)copy;
        const uint32_t checksum = header->checksum;
        header->checksum = rgp_image_checksum(copy, size);
        const uint32_t room = header->memory < 100000 ? header->memory : 100000;
        void *memory = calloc(1, room + 8);
        rgp_engine engine;
        if (try_open(copy, size, memory, room, &engine) == RGP_OK) {
            accepted++;
            for (uint64_t t = 0; t < 12; t++) {
                const rgp_sample sample = {.time_us = t, .raw = (int32_t)(t * 37 % 101)};
                rgp_engine_sense(&engine, 0, &sample);
                rgp_engine_step(&engine, t * 10000);
                assert_true(rgp_finite(rgp_engine_output(&engine, 0)));
            }
        }
        free(memory);
        header->checksum = checksum;
        copy[i / 3] ^= masks[i % 3];
    }
    if (!(accepted > size / 20 && accepted < 2 * size)) { /* of three tries a byte */
        fail_msg("%u of %u accepted", accepted, 3 * size);
    }
    free(copy);
    bench_close(&b);
}

static void test_forged_images_run_or_are_refused(void **unused)
{
    (void)unused;
    forge_all(whole_rig);
    forge_all(loops_rig);
}

/* Images that the loader must refuse for a step, a sequence, a state, a stall, a stop or an actuator, one by one. */
typedef struct forgery {
    const char *what;
    uint32_t section, element, offset; /* bytes */
    uint32_t bytes;                    /* 2 or 4 */
    uint32_t value;
    rgp_status status;
} forgery;

#define FIELD(type, name) (uint32_t) offsetof(type, name), (uint32_t)sizeof(((type *)0)->name)

static void test_forged_fields(void **unused)
{
    (void)unused;
    static const forgery cases[] = {
        {"a kind of step", RGP_SECTION_STEPS, 0, FIELD(rgp_image_step, kind), RGP_STEPS, RGP_E_INDEX},
        {"the cycle's target", RGP_SECTION_STEPS, 0, FIELD(rgp_image_step, target), 500, RGP_E_INDEX},
        {"the cycle's times", RGP_SECTION_STEPS, 0, FIELD(rgp_image_step, value), 0x8fff, RGP_E_INDEX},
        {"an action", RGP_SECTION_STEPS, 1, FIELD(rgp_image_step, what), 900, RGP_E_INDEX},
        {"a dwell's time", RGP_SECTION_STEPS, 2, FIELD(rgp_image_step, value), RGP_REF_NONE, RGP_E_INDEX},
        {"the way back", RGP_SECTION_STEPS, 3, FIELD(rgp_image_step, target), RGP_REF_NONE, RGP_E_INDEX},
        {"what is awaited", RGP_SECTION_STEPS, 4, FIELD(rgp_image_step, what), RGP_REF_NONE, RGP_E_INDEX},
        {"a sequence's steps", RGP_SECTION_SEQUENCES, 0, FIELD(rgp_image_sequence, steps), 0, RGP_E_INDEX},
        {"its last step", RGP_SECTION_SEQUENCES, 0, FIELD(rgp_image_sequence, steps), 3, RGP_E_INDEX},
        {"its first step", RGP_SECTION_SEQUENCES, 0, FIELD(rgp_image_sequence, first_step), 2000, RGP_E_INDEX},
        {"its state", RGP_SECTION_SEQUENCES, 0, FIELD(rgp_image_sequence, state), 77, RGP_E_INDEX},
        {"what it lives in", RGP_SECTION_SEQUENCES, 0, FIELD(rgp_image_sequence, condition), 0x7000, RGP_E_INDEX},
        {"its ending", RGP_SECTION_SEQUENCES, 0, FIELD(rgp_image_sequence, ending), 99, RGP_E_INDEX},
        {"a kind of state", RGP_SECTION_STATES, 0, FIELD(rgp_image_state, kind), RGP_STATES, RGP_E_INDEX},
        {"a stall's actuator", RGP_SECTION_STALLS, 0, FIELD(rgp_image_stall, actuator), 1, RGP_E_INDEX},
        {"a stall's value", RGP_SECTION_STALLS, 0, FIELD(rgp_image_stall, value), 0x6000, RGP_E_INDEX},
        {"a stall's amount", RGP_SECTION_STALLS, 0, FIELD(rgp_image_stall, amount), 0, RGP_E_RANGE},
        {"a stall's time", RGP_SECTION_STALLS, 0, FIELD(rgp_image_stall, time), 0x7fc00000, RGP_E_RANGE},
        {"a stop's condition", RGP_SECTION_STOPS, 0, FIELD(rgp_image_stop, condition), 0x6000, RGP_E_INDEX},
        {"a stop's release", RGP_SECTION_STOPS, 0, FIELD(rgp_image_stop, release), 0x6000, RGP_E_INDEX},
        {"what is kept", RGP_SECTION_RETAINED, 0, FIELD(rgp_image_retained, slot), 0x6000, RGP_E_INDEX},
        {"a duty", RGP_SECTION_ACTUATORS, 0, FIELD(rgp_image_actuator, duty), 0x3f800000, RGP_E_RANGE},
        {"a kind of actuator", RGP_SECTION_ACTUATORS, 0, FIELD(rgp_image_actuator, kind), 3, RGP_E_RANGE},
        {"an inversion", RGP_SECTION_ACTUATORS, 0, FIELD(rgp_image_actuator, inverted), 2, RGP_E_RANGE},
        {"a timed sensor", RGP_SECTION_SENSORS, 0, FIELD(rgp_image_sensor, timed), 1, RGP_E_RANGE},
        {"a name's order", RGP_SECTION_NAMES, 3, FIELD(rgp_image_name, kind), RGP_NAME_RIG, RGP_E_ORDER},
    };
    bench b;
    bench_open(&b, whole_rig);
    const uint32_t size = b.rig->image_size, room = b.engine.image->memory;
    unsigned char *copy = aligned_alloc(8, size);
    void *memory = aligned_alloc(8, room);
    for (size_t i = 0; i < sizeof cases / sizeof *cases; i++) {
        static const uint32_t widths[RGP_SECTIONS] = {
#define WIDTH(name, type) sizeof(type),
            RGP_SECTION_LIST(WIDTH)
#undef WIDTH
        };
        const forgery *c = &cases[i];
        rgp_engine engine;
        memcpy(copy, b.rig->image, size);
        rgp_image_header *header = (rgp_image_header *)(void *)copy;
        assert_true(c->element < header->section[c->section].count);
        memcpy(copy + header->section[c->section].offset + c->element * widths[c->section] + c->offset, &c->value,
               c->bytes);
        header->checksum = rgp_image_checksum(copy, size);
        const rgp_status status = try_open(copy, size, memory, room, &engine);
        if (status != c->status) {
            fail_msg("%s: '%s', not '%s'", c->what, rgp_status_text(status), rgp_status_text(c->status));
        }
        rgp_image_fault fault = {0, 0};
        assert_int_equal(rgp_image_verify(copy, size, memory, room, &fault), c->status);
        if (fault.section != c->section || fault.row != c->element) {
            fail_msg("%s: said to be in section %u, row %u", c->what, fault.section, fault.row);
        }
    }
    free(copy);
    free(memory);
    bench_close(&b);
}

int main(void)
{
    const struct CMUnitTest tests[] = {
        cmocka_unit_test(test_every_length_and_every_byte),
        cmocka_unit_test(test_forged_images_run_or_are_refused),
        cmocka_unit_test(test_forged_fields),
    };
    return cmocka_run_group_tests(tests, NULL, NULL);
}
