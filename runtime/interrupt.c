/* Signals: what each asks for, and the way to rest before the process dies. */
#include "interrupt.h"

#include <pthread.h>
#include <signal.h>
#include <stdatomic.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#define STACK_BYTES 65536u /* for a handler, when a thread's own stack is used up */

static atomic_bool leaving, suspending, ticking;
static pthread_t ticker; /* while ticking */
static const rgp_port *_Atomic resting;
static const char *_Atomic farewell;
static void (*_Atomic restoring)(void);

static const int polite[] = {SIGINT, SIGTERM, SIGHUP};
static const int deadly[] = {SIGSEGV, SIGBUS, SIGFPE, SIGILL, SIGABRT, SIGTRAP, SIGQUIT, SIGXCPU};

enum { POLITE = sizeof polite / sizeof *polite, DEADLY = sizeof deadly / sizeof *deadly };

void interrupt_wake(void)
{
    if (atomic_load(&ticking) && !pthread_equal(ticker, pthread_self())) {
        pthread_kill(ticker, SIGUSR1);
    }
}

void interrupt_ask(void)
{
    atomic_store(&leaving, true);
    interrupt_wake();
}

static void ask_to_leave(int number)
{
    (void)number;
    interrupt_ask();
}

static void ask_to_suspend(int number)
{
    (void)number;
    atomic_store(&suspending, true);
}

static void only_wake(int number)
{
    (void)number;
}

/* Needs no memory and takes no lock. */
static void die(int number)
{
    const rgp_port *port = atomic_load(&resting);
    const char *text = atomic_load(&farewell);
    void (*restore)(void) = atomic_load(&restoring);
    if (port && port->rest_now) {
        port->rest_now(port->self);
    }
    if (text) {
        const ssize_t ignored = write(STDOUT_FILENO, text, strlen(text));
        (void)ignored;
    }
    if (restore) {
        restore();
    }
    signal(number, SIG_DFL);
    raise(number);
}

static void handle(int number, void (*handler)(int), int flags)
{
    struct sigaction action = {.sa_handler = handler, .sa_flags = flags}, before;
    sigaction(number, NULL, &before);
    if (before.sa_handler != SIG_IGN) {
        sigaction(number, &action, NULL);
    }
}

void interrupt_catch(void)
{
    static unsigned char stack[STACK_BYTES];
    const stack_t other = {.ss_sp = stack, .ss_size = sizeof stack};
    sigaltstack(&other, NULL);
    atomic_store(&leaving, false);
    for (int i = 0; i < POLITE; i++) {
        handle(polite[i], ask_to_leave, 0);
    }
    for (int i = 0; i < DEADLY; i++) {
        handle(deadly[i], die, SA_ONSTACK | (int)SA_RESETHAND);
    }
    handle(SIGUSR1, only_wake, 0);
}

void interrupt_guard(const rgp_port *port)
{
    atomic_store(&resting, port);
}

bool interrupt_asked(void)
{
    return atomic_load(&leaving);
}

void interrupt_catch_suspend(bool on)
{
    const struct sigaction action = {.sa_handler = on ? ask_to_suspend : SIG_DFL};
    atomic_store(&suspending, false);
    sigaction(SIGTSTP, &action, NULL);
}

bool interrupt_take_suspend(void)
{
    return atomic_exchange(&suspending, false);
}

void interrupt_farewell(const char *text, void (*restore)(void))
{
    atomic_store(&farewell, text);
    atomic_store(&restoring, restore);
}

void interrupt_ticks_here(bool begins)
{
    if (begins) {
        ticker = pthread_self();
    }
    atomic_store(&ticking, begins);
}
