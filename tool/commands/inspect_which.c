/* Which channel is this? A person is the cause that is switched on and off. */
#include "inspect.h"

#include "runtime/interrupt.h"
#include "tool/stand.h"

#include "analysis/answer.h"

#include <stdio.h>

#define BLOCK_S 2.0

static const char *const prompts[] = {"hold it still", "MOVE IT, and keep moving it"};

static bool take_blocks(stand *s, rgp_block *block, uint32_t blocks)
{
    bool on[RGP_CONTRAST_BLOCKS_MOST];
    gsl_rng *chance = gsl_rng_alloc(gsl_rng_mt19937);
    gsl_rng_set(chance, (unsigned long)g_get_real_time());
    rgp_contrast_order(chance, on, blocks);
    gsl_rng_free(chance);
    stand_note(s);
    printf("  %s", prompts[0]);
    fflush(stdout);
    stand_tick_for(s, BLOCK_S);
    for (uint32_t i = 0; i < blocks && !interrupt_asked(); i++) {
        const bool anew = on[i] != (i > 0 && on[i - 1]);
        printf("\r\033[K%s  %u of %u: %s", anew ? "\a" : "", i + 1, blocks, prompts[on[i]]);
        fflush(stdout);
        block[i] = (rgp_block){.from = s->rows, .on = on[i]};
        stand_tick_for(s, BLOCK_S);
        block[i].to = s->rows;
    }
    puts("\r\033[K");
    return !interrupt_asked();
}

static void describe_answers(const stand *s, const rgp_block *block, uint32_t blocks)
{
    uint32_t answered = 0;
    for (uint32_t i = 0; i < stand_sensors(s); i++) {
        const rgp_answer a =
            rgp_answer_of(s->history, stand_sensor(s, i), block, blocks, stand_sensors(s), RGP_ANSWER_SPREAD);
        g_autoptr(GString) told = g_string_new(NULL);
        rgp_answer_describe(&a, stand_sensor_unit(s, i), s->image->tick_us, told);
        printf("  %-14s %s\n", stand_sensor_name(s, i), told->str);
        answered += a.answered;
    }
    if (answered == 0) {
        puts("nothing answers: move it further, or look at the wires");
    }
}

int inspect_which(const command *self, const rgp_rig *rig)
{
    g_autoptr(GError) error = NULL;
    rgp_block block[RGP_CONTRAST_BLOCKS_MOST];
    stand s;
    int status = EXIT_DONE;
    if (stand_begin(&s, rig, &(stand_setup){.seed = 1}, &error)) {
        const uint32_t blocks = rgp_answer_blocks(stand_sensors(&s));
        printf("Take the one thing of which you want to know the channel, and do as it says: %u times %g s, in random "
               "order.\n",
               blocks, BLOCK_S);
        if (take_blocks(&s, block, blocks)) {
            describe_answers(&s, block, blocks);
        } else {
            puts("interrupted; nothing was driven");
        }
    } else {
        status = command_refuse(self, "%s", error->message);
    }
    stand_end(&s);
    return status;
}
