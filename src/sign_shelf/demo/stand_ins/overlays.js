document.addEventListener('click', (event) => {
  const opener = event.target.closest('[data-overlay]')
  const overlay = opener && document.getElementById(opener.dataset.overlay)
  if (overlay) overlay.showModal()
})
