function d(t){let{may:n}=document.body.dataset;return n===void 0||n.split(" ").includes(t)}export{d as a};
